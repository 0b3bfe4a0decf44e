/** A text inside a file that no one knows the format of: where it begins and ends, and other words in its place. */
import iconv from 'iconv-lite';
import type { ByteSource } from '../bytes';
import { FaultError } from '../faults';
import type { TEXT_ENCODINGS } from './sought';

export type TextEncoding = (typeof TEXT_ENCODINGS)[number];

export interface TextRun {
  /** Bytes from the start of the file, and how many the text takes. */
  readonly at: number;
  readonly length: number;
  readonly encoding: TextEncoding;
  readonly text: string;
  /**
   * How a shorter text is filled: with zeros where one ends the text; with spaces where something else follows, or a number in
   * front of it stores its length.
   */
  readonly fill: 'zeros' | 'spaces';
  /** Bytes of the number in front that stores its length; 0 where none does. */
  readonly counted: 0 | 1 | 2 | 4;
}

/** Bytes on either side of a place that a text may reach. */
const REACH = 32 << 10;

/**
 * The text that a place lies in: as far as its bytes are characters that are seen, or lines and tabs.
 *
 * @param at a byte of the text, and `length` bytes that are known to be of it
 * @throws FaultError `outside-file`
 */
export async function textRunAt(
  source: ByteSource,
  at: number,
  length: number,
  encoding: TextEncoding,
): Promise<TextRun> {
  if (at < 0 || at + length > source.size)
    throw new FaultError({ code: 'outside-file', file: source.name, offset: at, what: 'the file has no such place' });
  const unit = encoding.startsWith('utf-16') ? 2 : 1;
  const start = Math.max(0, at - Math.floor(Math.min(REACH, at) / unit) * unit);
  const bytes = await source.read(start, Math.min(source.size, at + length + REACH) - start);
  const inside = at - start;
  const seen = (from: number, to: number) => isSeen(bytes.subarray(from, to), encoding);
  // Where a character begins can be seen only from the front: the second byte of one may look like another.
  let from = inside;
  while (from >= unit && !isControl(bytes.subarray(from - unit, from))) from -= unit;
  for (let place = from; place < inside;) {
    const step = stepOn(place);
    place += step || unit;
    if (step === 0 || place > inside) from = Math.min(place, inside);
  }
  let to = inside + length;
  for (let step = stepOn(to); step > 0; step = stepOn(to)) to += step;
  const zero = bytes.subarray(to, to + unit);
  const counted = countedBy(bytes, from, to - from, unit);
  return {
    at: start + from,
    length: to - from,
    encoding,
    text: iconv.decode(Buffer.from(bytes.subarray(from, to)), encoding),
    fill: counted === 0 && zero.length === unit && zero.every((byte) => byte === 0) ? 'zeros' : 'spaces',
    counted,
  };

  /** Bytes of the character that begins at a place; 0 when none does. */
  function stepOn(place: number): number {
    for (let step = unit; step <= 4 && place + step <= bytes.length; step += unit)
      if (seen(place, place + step)) return step;
    return 0;
  }
}

/** Whether some bytes are one character that people see, or that parts lines. */
function isSeen(bytes: Uint8Array, encoding: TextEncoding): boolean {
  const text = iconv.decode(Buffer.from(bytes), encoding);
  if ([...text].length !== 1 || /[\p{Cn}\p{Co}\p{Cs}\ufffd]/u.test(text)) return false;
  if (/[\p{Cc}\p{Cf}]/u.test(text) && !/[\n\r\t]/.test(text)) return false;
  return Buffer.compare(iconv.encode(text, encoding), bytes) === 0;
}

/** Whether a unit is none of a text, whatever is before it. */
function isControl(unit: Uint8Array): boolean {
  const high = unit.length === 1 ? 0 : Math.min(unit[0]!, unit[1]!);
  const low = unit.length === 1 ? unit[0]! : Math.max(unit[0]!, unit[1]!);
  return high === 0 && low < 0x20 && low !== 0x0a && low !== 0x0d && low !== 0x09;
}

/** Bytes of a number right in front that is the length of the text, in bytes or characters, with its zero or without. */
function countedBy(bytes: Uint8Array, from: number, length: number, unit: number): TextRun['counted'] {
  const fits = (number: number) => [length, length / unit, length / unit + 1].includes(number);
  const view = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (length < 4) return 0;
  if (from >= 4 && (fits(view.readUInt32LE(from - 4)) || fits(view.readUInt32BE(from - 4)))) return 4;
  if (from >= 2 && (fits(view.readUInt16LE(from - 2)) || fits(view.readUInt16BE(from - 2)))) return 2;
  return from >= 1 && fits(view[from - 1]!) ? 1 : 0;
}

/**
 * Other words for the place of a text: exactly as many bytes.
 *
 * @throws FaultError `limit-reached` when they are longer, `bad-text` for characters its encoding does not have
 */
export function fillTextRun({ length, encoding, fill }: TextRun, text: string, file: string): Uint8Array {
  const bytes = iconv.encode(text, encoding);
  if (iconv.decode(bytes, encoding) !== text)
    throw new FaultError({
      code: 'bad-text',
      file,
      what: 'the text has characters that its encoding does not have',
      expected: encoding,
      found: [...text].filter((one) => iconv.decode(iconv.encode(one, encoding), encoding) !== one).join(' '),
    });
  if (bytes.length > length)
    throw new FaultError({
      code: 'limit-reached',
      file,
      what: 'the text is longer than its place',
      found: `${bytes.length.toLocaleString('en')} bytes`,
      limit: `bytes of the place, ${length.toLocaleString('en')}, since it is not known what else would have to move`,
      hint: 'Say it in fewer words.',
    });
  const space = iconv.encode(' ', encoding);
  const filled = Buffer.alloc(length);
  if (fill === 'spaces') for (let at = 0; at + space.length <= length; at += space.length) filled.set(space, at);
  filled.set(bytes);
  return new Uint8Array(filled);
}
