/**
 * BMP as Microsoft's reference describes it: 1, 4 and 8 bits with a palette, plain or run-length packed; 16, 24 and 32 bits with
 * masks. Written as the file that it replaces is, and never packed.
 */
import { FormatError } from '../../../faults';
import { checkSizes, type Picture } from '../picture';
import { maskedFormat, type Masks, type PixelFormat } from '../pixel-formats';
import { checkIndices, indexedColours, oneLevel, upsideDown } from './indexed';

const FILE_HEADER = 14;
const INFO_HEADER = 40;
/** Values of `biCompression`. */
const PLAIN = 0;
const RLE8 = 1;
const RLE4 = 2;
const MASKS = 3;
const MASKS_WITH_ALPHA = 6;

/** Pixels of a packed picture that need not be in the file. */
const MOST_LEFT_OUT = 16 << 20;

const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

export const isBmp = (bytes: Uint8Array): boolean => bytes[0] === 0x42 && bytes[1] === 0x4d && bytes.length >= 26;

interface Header {
  readonly start: number;
  readonly header: number;
  readonly width: number;
  readonly height: number;
  readonly topDown: boolean;
  readonly bits: number;
  readonly packing: number;
}

/** @throws FormatError with the offset and what was expected and found there */
export function readBmp(bytes: Uint8Array, file: string): Picture {
  const header = readHeader(bytes, file);
  const { width, height, bits, topDown } = header;
  if (bits <= 8) {
    const colours = readColours(bytes, header, file);
    const indices = indicesOf(bytes, header, file);
    checkIndices(indices, colours.length / 4, file);
    return oneLevel(indexedColours(colours), width, height, topDown ? indices : upsideDown(indices, width));
  }
  const row = rowBytes(width, bits);
  checkLength(bytes, header.start + row * height, file);
  const masks = masksOf(bytes, header);
  let format = maskedFormat(bits, masks);
  const level = new Uint8Array(width * height * format.bytes);
  for (let y = 0; y < height; y++) {
    const from = header.start + row * (topDown ? y : height - 1 - y);
    level.set(bytes.subarray(from, from + width * format.bytes), y * width * format.bytes);
  }
  // Many programs leave the bits of alpha 0 and mean an opaque picture.
  if (masks[3] !== 0 && isClear(level, format)) format = maskedFormat(bits, [masks[0], masks[1], masks[2], 0]);
  return oneLevel(format, width, height, level);
}

function readHeader(bytes: Uint8Array, file: string): Header {
  if (!isBmp(bytes)) throw new FormatError({ code: 'wrong-kind', file, offset: 0, expected: 'BM' });
  const data = view(bytes);
  const wrong = (offset: number, field: string, expected: string, found: number) =>
    new FormatError({ code: 'wrong-kind', file, offset, field, expected, found: String(found) });
  const header = data.getUint32(FILE_HEADER, true);
  if (header < INFO_HEADER || bytes.length < FILE_HEADER + header)
    throw wrong(FILE_HEADER, 'header', `${INFO_HEADER} bytes or more`, header);
  const signed = data.getInt32(22, true);
  const found = {
    header,
    start: data.getUint32(10, true),
    width: data.getInt32(18, true),
    height: Math.abs(signed),
    topDown: signed < 0,
    bits: data.getUint16(28, true),
    packing: data.getUint32(30, true),
  };
  checkSizes(file, { ...found, mips: 1 });
  const { bits, packing } = found;
  if (![1, 4, 8, 16, 24, 32].includes(bits)) throw wrong(28, 'bits a pixel', '1, 4, 8, 16, 24 or 32', bits);
  const suits =
    packing === PLAIN ||
    (packing === RLE8 && bits === 8) ||
    (packing === RLE4 && bits === 4) ||
    ([MASKS, MASKS_WITH_ALPHA].includes(packing) && (bits === 16 || bits === 32));
  if (!suits) throw wrong(30, 'compression', `one for ${bits} bits a pixel`, packing);
  return found;
}

const rowBytes = (width: number, bits: number) => Math.ceil((width * bits) / 32) * 4;

/** Red, green, blue and alpha of each colour; at most 256. */
function readColours(bytes: Uint8Array, { header, bits }: Header, file: string): Uint8Array {
  const at = FILE_HEADER + header;
  const count = Math.min(1 << bits, view(bytes).getUint32(46, true) || 1 << bits);
  checkLength(bytes, at + count * 4, file);
  // The fourth byte of a colour is reserved.
  return Uint8Array.from({ length: count * 4 }, (_, i) =>
    i % 4 === 3 ? 255 : bytes[at + i - (i % 4) + (2 - (i % 4))]!,
  );
}

/** Numbers of colours, a byte each, in the order of the rows in the file. */
function indicesOf(bytes: Uint8Array, header: Header, file: string): Uint8Array {
  const { start, width, height, bits, packing } = header;
  if (packing !== PLAIN) return unpackRuns(bytes.subarray(start), header, file);
  const row = rowBytes(width, bits);
  checkLength(bytes, start + row * height, file);
  const out = new Uint8Array(width * height);
  const most = (1 << bits) - 1;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const bit = x * bits;
      out[y * width + x] = (bytes[start + y * row + (bit >> 3)]! >> (8 - bits - (bit & 7))) & most;
    }
  return out;
}

/** BI_RLE8 and BI_RLE4: pairs of a length and a colour, or two colours; 0 begins an escape. */
function unpackRuns(packed: Uint8Array, { width, height, bits, start }: Header, file: string): Uint8Array {
  // Two bytes fill 255 pixels at most. Smaller pictures may leave pixels out.
  if (width * height > Math.max(MOST_LEFT_OUT, packed.length * 128)) throw tooShort(file, start + packed.length);
  const out = new Uint8Array(width * height);
  const perByte = 8 / bits;
  const most = (1 << bits) - 1;
  let [at, x, y] = [0, 0, 0];
  const put = (colour: number) => {
    // What a run has beyond the picture is not shown.
    if (x < width && y < height) out[y * width + x] = colour;
    x++;
  };
  const colour = (byte: number, i: number) => (byte >> (8 - bits * ((i % perByte) + 1))) & most;
  while (y < height) {
    const [length, second] = [packed[at], packed[at + 1]];
    if (length === undefined || second === undefined) throw tooShort(file, start + at);
    at += 2;
    if (length > 0) for (let i = 0; i < length; i++) put(colour(second, i));
    else if (second === 0) [x, y] = [0, y + 1];
    else if (second === 1) break;
    else if (second === 2) {
      if (at + 2 > packed.length) throw tooShort(file, start + at);
      [x, y] = [x + packed[at]!, y + packed[at + 1]!];
      at += 2;
    } else {
      const bytes = Math.ceil(second / perByte);
      if (at + bytes > packed.length) throw tooShort(file, start + at);
      for (let i = 0; i < second; i++) put(colour(packed[at + Math.floor(i / perByte)]!, i));
      at += bytes + (bytes % 2);
    }
  }
  return out;
}

function masksOf(bytes: Uint8Array, { bits, packing, header }: Header): Masks {
  const data = view(bytes);
  if (packing !== PLAIN) {
    const alpha = header >= 56 || packing === MASKS_WITH_ALPHA ? data.getUint32(66, true) : 0;
    return [data.getUint32(54, true), data.getUint32(58, true), data.getUint32(62, true), alpha];
  }
  return bits === 16 ? [0x7c00, 0x3e0, 0x1f, 0] : [0xff0000, 0xff00, 0xff, bits === 32 ? 0xff000000 : 0];
}

function isClear(level: Uint8Array, format: PixelFormat): boolean {
  const pixel = new Uint8Array(4);
  for (let at = 0; at < level.length; at += format.bytes) {
    format.unpack(level, at, pixel);
    if (pixel[3] !== 0) return false;
  }
  return true;
}

function checkLength(bytes: Uint8Array, expected: number, file: string): void {
  if (expected > bytes.length) throw tooShort(file, bytes.length, expected);
}

const tooShort = (file: string, offset: number, expected?: number) =>
  new FormatError({
    code: 'cut-short',
    file,
    offset,
    what: 'the picture ends too early',
    ...(expected === undefined ? {} : { expected: `${expected.toLocaleString('en')} bytes` }),
  });

/** How the pixels lie in a file: two that are alike are read by the same programs. */
export function bmpStorage(bytes: Uint8Array, file: string): string {
  const { header, bits, packing, topDown } = readHeader(bytes, file);
  return [header, bits, packing, topDown].join();
}

/**
 * The picture in the file of another: its header, masks and palette, and its order of rows.
 *
 * @param picture in the pixel format of the original
 */
export function graftBmp(original: Uint8Array, { width, height, levels }: Picture, file: string): Uint8Array {
  const { start, bits, topDown } = readHeader(original, file);
  const row = rowBytes(width, bits);
  const out = new Uint8Array(start + row * height);
  out.set(original.subarray(0, start));
  const data = view(out);
  data.setUint32(2, out.length, true);
  data.setInt32(18, width, true);
  data.setInt32(22, topDown ? -height : height, true);
  if (bits <= 8) data.setUint32(30, PLAIN, true);
  data.setUint32(34, row * height, true);
  const level = levels[0]!;
  const pixelBytes = level.length / (width * height);
  for (let y = 0; y < height; y++) {
    const from = level.subarray(y * width * pixelBytes, (y + 1) * width * pixelBytes);
    const at = start + row * (topDown ? y : height - 1 - y);
    if (bits >= 8) out.set(from, at);
    else from.forEach((index, x) => (out[at + ((x * bits) >> 3)]! |= index << (8 - bits - ((x * bits) & 7))));
  }
  return out;
}
