import { visible } from './visible';
import type { Fault } from './fault';

/** Bytes as people read them: `9C 04 7E 11`, cut after `most` with an ellipsis. */
export function hexBytes(bytes: Uint8Array, most = 8): string {
  const shown = Array.from(bytes.subarray(0, most), (b) => b.toString(16).toUpperCase().padStart(2, '0')).join(' ');
  return bytes.length > most ? `${shown} …` : shown;
}

const HEADLINES: Partial<Record<Fault['code'], string>> = {
  'cut-short': 'The file ends too early',
  'must-differs': 'A field is not what it has to be',
  'formula-differs': 'A field disagrees with its formula',
  'codec-failed': 'A stretch could not be unpacked or unlocked',
  'size-differs': 'The unpacked size is wrong',
  'checksum-differs': 'The checksum does not agree',
  'outside-file': 'A pointer leads out of the file',
  'bad-text': 'A text is not in its encoding',
  'volume-missing': 'A volume is missing',
  'missing-program': 'A program is missing',
  'other-language': 'These texts are in another language',
  'file-changed': 'The file changed while it was read',
  'no-recipe': 'No recipe knows this file',
  'layout-impossible': 'The new layout does not fit the format',
  'not-reproduced': 'The rebuilt file differs',
  'check-failed': 'Nothing was written, because the new file would not read back as meant',
  'recipe-invalid': 'The recipe is not right',
  'recipe-circular': 'Formulas of the recipe depend on each other',
  'key-missing': 'A key is missing',
  'key-wrong': 'The key does not fit',
  'no-such-entry': 'There is no such entry',
  'wrong-kind': 'The file is of another kind',
  'cannot-add': 'This recipe cannot add entries',
  'limit-reached': 'A limit was reached',
  defect: 'Something went wrong in Zero Latch itself',
};

/**
 * One fault in words: what, where, expected, found, what to try.
 *
 * @example sayFault({ code: 'must-differs', field: 'magic', offset: 0, expected: '"HOLD"', found: '"HOLE"' })
 * // → 'A field is not what it has to be: field magic at 0x0: expected "HOLD", found "HOLE".'
 */
export function sayFault(fault: Fault): string {
  if (fault.code === 'key-wrong' && fault.expected !== undefined && fault.offset !== undefined)
    return visible(sayWrongKey(fault));
  const headline = HEADLINES[fault.code];
  const what =
    fault.what === undefined ? headline : headline === undefined ? sentence(fault.what) : `${headline}: ${fault.what}`;
  const parts = [what ?? fault.code, place(fault), comparison(fault)].filter((part) => part !== '');
  const text = `${parts.join(': ')}.`;
  return visible(fault.hint === undefined ? text : `${text} ${fault.hint}`);
}

function place(fault: Fault): string {
  const parts: string[] = [];
  if (fault.file !== undefined) parts.push(fault.file);
  if (fault.recipe !== undefined)
    parts.push(`recipe ${fault.recipe}${fault.line === undefined ? '' : ` line ${fault.line}`}`);
  else if (fault.line !== undefined) parts.push(`line ${fault.line}`);
  if (fault.entry !== undefined) parts.push(`entry ${fault.entry}`);
  if (fault.region !== undefined) parts.push(`region ${fault.region}`);
  if (fault.field !== undefined) parts.push(`field ${fault.field}`);
  const inside = fault.within === undefined ? '' : ` of the unlocked ${fault.within}`;
  const offset = fault.offset === undefined ? '' : `at 0x${fault.offset.toString(16).toUpperCase()}${inside}`;
  const where = parts.join(', ');
  return offset === '' ? where : where === '' ? offset : `${where} ${offset}`;
}

function comparison(fault: Fault): string {
  const parts: string[] = [];
  if (fault.expected !== undefined) parts.push(`expected ${fault.expected}`);
  if (fault.found !== undefined) parts.push(`found ${fault.found}`);
  if (fault.limit !== undefined) parts.push(`limit ${fault.limit}`);
  return parts.join(', ');
}

function sentence(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** What a modder can compare: the bytes that should be there, and those that do. */
function sayWrongKey({ file, region, field, offset, expected, found, what, hint }: Fault): string {
  const where = `${field ?? 'byte'} at 0x${(offset ?? 0).toString(16).toUpperCase()} of the unlocked ${region ?? 'bytes'}`;
  const whose = file === undefined ? '' : ` ${file}:`;
  const sentence = `This key does not fit${whose === '' ? ':' : whose} ${what === undefined ? '' : `${what}: `}${where} should read ${expected} and reads ${found}.`;
  return hint === undefined ? sentence : `${sentence} ${hint}`;
}
