/** How a text is stored: recognised from its bytes, and kept when it is replaced. */
import { analyse } from 'chardet';
import iconv from 'iconv-lite';
import { FaultError } from '../faults';

export type LineEnds = '\n' | '\r\n' | '\r';

export interface TextForm {
  /** A label of the Encoding Standard, which browsers decode. */
  readonly encoding: string;
  /** A byte order mark is in front. */
  readonly hasMark: boolean;
  /** Undefined where lines end in several ways, or there is only one line. */
  readonly lineEnds: LineEnds | undefined;
}

/** Bytes that are enough to recognise the encoding of a text. */
const LOOKED_AT = 256 << 10;

const MARKS: readonly (readonly [encoding: string, bytes: readonly number[]])[] = [
  ['utf-8', [0xef, 0xbb, 0xbf]],
  ['utf-16le', [0xff, 0xfe]],
  ['utf-16be', [0xfe, 0xff]],
];

/** What the statistics call an encoding, as the Encoding Standard does. The 8-bit sets of ISO are read as those of Windows. */
const LABELS: Readonly<Record<string, string>> = {
  'ISO-8859-1': 'windows-1252',
  'ISO-8859-2': 'windows-1250',
  'ISO-8859-5': 'iso-8859-5',
  'ISO-8859-7': 'windows-1253',
  'ISO-8859-9': 'windows-1254',
  'windows-1250': 'windows-1250',
  'windows-1251': 'windows-1251',
  'windows-1252': 'windows-1252',
  'windows-1253': 'windows-1253',
  'windows-1254': 'windows-1254',
  'KOI8-R': 'koi8-r',
  Shift_JIS: 'shift_jis',
  'EUC-JP': 'euc-jp',
  'EUC-KR': 'euc-kr',
  Big5: 'big5',
  GB18030: 'gb18030',
};

/** The form of a text, by its mark, by being UTF-8, by the zeros of UTF-16, and else by statistics. */
export function textFormOf(bytes: Uint8Array): TextForm {
  const head = bytes.subarray(0, LOOKED_AT);
  const mark = MARKS.find(([, own]) => own.every((byte, i) => head[i] === byte));
  const encoding = mark?.[0] ?? encodingOf(head);
  return { encoding, hasMark: mark !== undefined, lineEnds: lineEndsOf(iconv.decode(Buffer.from(head), encoding)) };
}

/** The text, without a byte order mark. */
export function decodeText(bytes: Uint8Array, { encoding } = textFormOf(bytes)): string {
  return iconv.decode(Buffer.from(bytes), encoding);
}

/**
 * The bytes of a text in the form of another one: its encoding, its mark and its line ends.
 *
 * @throws FaultError `bad-text` naming the first character that has no place in the encoding
 */
export function encodeLike(text: string, { encoding, hasMark, lineEnds }: TextForm): Uint8Array {
  const lines = lineEnds === undefined ? text : text.replace(/\r\n|\r|\n/g, lineEnds);
  const bytes = iconv.encode(lines, encoding, { addBOM: hasMark });
  if (iconv.decode(bytes, encoding) === lines) return new Uint8Array(bytes);
  const stranger = [...lines].find((char) => iconv.decode(iconv.encode(char, encoding), encoding) !== char) ?? '';
  throw new FaultError({
    code: 'bad-text',
    what: `“${stranger}” cannot be written in ${encoding}, which the original text is in`,
    hint: 'Use only characters the game knows.',
  });
}

function encodingOf(head: Uint8Array): string {
  const wide = wideOrder(head);
  if (wide !== undefined) return wide;
  if (isUtf8(head)) return 'utf-8';
  for (const { name } of analyse(head)) {
    const label = LABELS[name];
    if (label !== undefined) return label;
  }
  return 'windows-1252';
}

/** A character that is cut off at the end of what was looked at is no fault. */
function isUtf8(head: Uint8Array): boolean {
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(head, { stream: head.length === LOOKED_AT });
    return true;
  } catch {
    return false;
  }
}

/** UTF-16 of mostly Latin text has a zero in every other byte. */
function wideOrder(head: Uint8Array): 'utf-16le' | 'utf-16be' | undefined {
  if (head.length < 4 || head.length % 2 === 1) return undefined;
  const zeros = [0, 0];
  for (let i = 0; i < head.length; i++) if (head[i] === 0) zeros[i % 2]!++;
  const half = head.length / 2;
  if (zeros[1]! > half * 0.6 && zeros[0]! < half * 0.1) return 'utf-16le';
  if (zeros[0]! > half * 0.6 && zeros[1]! < half * 0.1) return 'utf-16be';
  return undefined;
}

function lineEndsOf(text: string): LineEnds | undefined {
  const found = new Set(text.match(/\r\n|\r|\n/g));
  return found.size === 1 ? ([...found][0] as LineEnds) : undefined;
}
