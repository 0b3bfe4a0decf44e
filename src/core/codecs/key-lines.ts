/** Several keys in one text, as people pass them on: a line each, with or without a name. */
import { keyCandidates } from './keys';

export interface NamedKey {
  /** What is before the `=` or `:` of its line. */
  readonly name: string | undefined;
  readonly bytes: Uint8Array;
}

/** Words that say how a key is written, and are no names. */
const PREFIXES = new Set(['text', 'hex', 'base64']);

/**
 * Every way to read a pasted text as keys: as one, and line by line. Lines that begin with `#` or `//` are skipped.
 *
 * @example keysInText('content = 9f3c…\nvoices: 52a1…')
 */
export function keysInText(text: string): NamedKey[] {
  const lines = text
    .split(/\r?\n/)
    .map((line) => line.trim())
    .filter((line) => line !== '' && !/^(#|\/\/)/.test(line));
  const found: NamedKey[] = keyCandidates(text).map((bytes) => ({ name: undefined, bytes }));
  for (const line of lines) {
    const named = /^["']?([A-Za-z][\w .-]{0,60}?)["']?\s*[=:]\s*["']?([^"',]+)["']?,?$/.exec(line);
    if (named !== null && !PREFIXES.has(named[1]!.toLowerCase()))
      for (const bytes of keyCandidates(named[2]!)) found.push({ name: named[1]!.trim(), bytes });
    else if (lines.length > 1) for (const bytes of keyCandidates(line)) found.push({ name: undefined, bytes });
  }
  return found;
}
