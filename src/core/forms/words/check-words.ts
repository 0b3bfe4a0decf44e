/** What is wrong with a text before the game sees it. */
import { comparePlaceholders } from './placeholders';
import type { TextCodec } from '../../recipe';
import { lengthOf, unwritable } from './spell-out';
import type { WordRow } from './words';

export interface WordRules {
  /** Bytes that a text may have. */
  readonly most?: number | undefined;
  readonly codec: TextCodec;
}

/** In sentences; none when nothing is wrong. Of a text that is not there, nothing is said. */
export function checkWords({ source, text }: WordRow, { most, codec }: WordRules): string[] {
  if (text === null) return [];
  const problems: string[] = [];
  if (source !== null && source.trim() !== '') {
    if (text.trim() === '') problems.push('it is empty');
    const { missing, extra } = comparePlaceholders(source, text);
    if (missing.length > 0) problems.push(`${missing.join(' ')} of the source is not in it`);
    if (extra.length > 0) problems.push(`${extra.join(' ')} is not in the source`);
    const edge = (one: string) => `${/^\s/.test(one)} ${/\s$/.test(one)}`;
    if (text.trim() !== '' && edge(source) !== edge(text))
      problems.push('it begins or ends with other spaces than the source');
  }
  const strange = unwritable(text, codec);
  if (strange.length > 0)
    problems.push(`${strange.join(' ')} cannot be shown by the game, whose texts are in ${codec.encoding}`);
  const bytes = lengthOf(text, codec);
  if (most !== undefined && bytes > most)
    problems.push(`it takes ${bytes.toLocaleString('en')} bytes, and the game takes ${most.toLocaleString('en')}`);

  if (/[\x00-\x08\x0b\x0c\x0e-\x1f]/.test(text)) problems.push('it holds control characters');
  return problems;
}
