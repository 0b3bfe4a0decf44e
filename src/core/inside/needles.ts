/** What is looked for inside entries, as the bytes it may be as. */
import iconv from 'iconv-lite';
import { FaultError } from '../faults';
import { TEXT_ENCODINGS, type NUMBER_FORMS, type Sought } from './sought';

export interface Needle {
  /** What a hit is, such as `UTF-16` or `u32, big end first`. */
  readonly as: string;
  readonly bytes: Uint8Array;
  /** Bits of each byte that have to agree; all of them where there is none. */
  readonly mask?: Uint8Array;
  /** Capital letters of ASCII count as small ones; the needle is in small ones. */
  readonly folds: boolean;
}

/**
 * The needles of what is sought; those with the same bytes are one.
 *
 * @throws FaultError `invalid-request` when it represents no bytes
 */
export function needlesFor(sought: Sought): Needle[] {
  switch (sought.is) {
    case 'text':
      return textNeedles(sought.text, sought.exact);
    case 'number':
      return numberNeedles(sought.number, sought.forms);
    case 'bytes':
      return [bytesNeedle(sought.bytes)];
  }
}

function textNeedles(text: string, exact: boolean): Needle[] {
  const wanted = exact ? text : text.toLowerCase();
  const needles = new Map<string, Needle>();
  for (const encoding of TEXT_ENCODINGS) {
    const bytes = iconv.encode(wanted, encoding);
    // An encoding that cannot say the text writes question marks in its place.
    if (iconv.decode(bytes, encoding) !== wanted) continue;
    const key = bytes.toString('latin1');
    if (!needles.has(key)) needles.set(key, { as: encoding.toUpperCase(), bytes, folds: !exact });
  }
  return [...needles.values()];
}

const RANGES: Readonly<Record<(typeof NUMBER_FORMS)[number], (number: number) => boolean>> = {
  u8: (number) => Number.isInteger(number) && number >= -0x80 && number <= 0xff,
  u16: (number) => Number.isInteger(number) && number >= -0x8000 && number <= 0xffff,
  u32: (number) => Number.isInteger(number) && number >= -0x8000_0000 && number <= 0xffff_ffff,
  u64: (number) => Number.isSafeInteger(number),
  f32: () => true,
  f64: () => true,
};

function numberNeedles(number: number, forms: readonly (typeof NUMBER_FORMS)[number][]): Needle[] {
  const needles: Needle[] = [];
  for (const form of forms) {
    if (!RANGES[form](number)) continue;
    for (const little of form === 'u8' ? [true] : [true, false]) {
      const as = form === 'u8' ? form : `${form}, ${little ? 'little' : 'big'} end first`;
      needles.push({ as, bytes: numberBytes(number, form, little), folds: false });
    }
  }
  if (needles.length > 0) return needles;
  throw new FaultError({
    code: 'invalid-request',
    what: `${number} fits none of the chosen widths`,
    expected: forms.join(', '),
    hint: 'Choose a wider one.',
  });
}

function numberBytes(number: number, form: (typeof NUMBER_FORMS)[number], little: boolean): Uint8Array {
  const view = new DataView(new ArrayBuffer(8));
  switch (form) {
    case 'u8':
      view.setInt8(0, number);
      return new Uint8Array(view.buffer, 0, 1);
    case 'u16':
      view.setInt16(0, number, little);
      return new Uint8Array(view.buffer, 0, 2);
    case 'u32':
      view.setInt32(0, number, little);
      return new Uint8Array(view.buffer, 0, 4);
    case 'u64':
      view.setBigInt64(0, BigInt(number), little);
      return new Uint8Array(view.buffer);
    case 'f32':
      view.setFloat32(0, number, little);
      return new Uint8Array(view.buffer, 0, 4);
    case 'f64':
      view.setFloat64(0, number, little);
      return new Uint8Array(view.buffer);
  }
}

/** Hex digits with or without spaces; `??` represents any byte. */
function bytesNeedle(text: string): Needle {
  const digits = text.replace(/[\s,]|0x/gi, '').toLowerCase();
  if (!/^([0-9a-f]{2}|\?\?)+$/.test(digits) || /^(\?\?)+$/.test(digits))
    throw new FaultError({
      code: 'invalid-request',
      what: 'these are no bytes',
      expected: 'two hex digits a byte, ?? for any byte: 52 49 46 46 ?? ?? 57',
      found: text.slice(0, 60),
    });
  const pairs = digits.match(/../g)!;
  const bytes = Uint8Array.from(pairs, (pair) => (pair === '??' ? 0 : parseInt(pair, 16)));
  const mask = Uint8Array.from(pairs, (pair) => (pair === '??' ? 0 : 0xff));
  return mask.every((bits) => bits === 0xff)
    ? { as: 'bytes', bytes, folds: false }
    : { as: 'bytes', bytes, mask, folds: false };
}
