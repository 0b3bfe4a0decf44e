/**
 * TGA, version 2.0 of the Truevision file format specification: colours, grey and palettes, plain or run-length packed. Written as
 * the file that it replaces is, or with 32 bits a pixel where there is none.
 */
import { FormatError } from '../../../faults';
import { checkSizes, packOneByOne, type Picture, type Pixels } from '../picture';
import { findPixelFormat, maskedFormat, type PixelFormat } from '../pixel-formats';
import { checkIndices, indexedColours, oneLevel, upsideDown } from './indexed';

const HEADER = 18;
const TOP = 0x20;
const RIGHT = 0x10;
/** Kinds of image: with a palette, of colours, grey; 8 more when it is packed. */
const KINDS = { palette: 1, colours: 2, grey: 3 } as const;
const PACKED = 8;

const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

/** TGA has no signature: its header has to make sense. */
export function isTga(bytes: Uint8Array): boolean {
  if (bytes.length < HEADER) return false;
  const kind = bytes[2]! & ~PACKED;
  if (bytes[1]! > 1 || kind < 1 || kind > 3 || (bytes[2]! & ~0xb) !== 0) return false;
  if ((kind === KINDS.palette) !== (bytes[1] === 1)) return false;
  const data = view(bytes);
  return data.getUint16(12, true) > 0 && data.getUint16(14, true) > 0 && pixelFormat(bytes) !== undefined;
}

interface Header {
  readonly width: number;
  readonly height: number;
  /** Undefined for pixels that are numbers of colours. */
  readonly format: PixelFormat | undefined;
  readonly packed: boolean;
  readonly paletteAt: number;
  readonly paletteBytes: number;
  readonly flags: number;
}

function readHeader(bytes: Uint8Array, file: string): Header {
  if (!isTga(bytes)) throw new FormatError({ code: 'wrong-kind', file, offset: 0, expected: 'a header of TGA' });
  const data = view(bytes);
  const [width, height] = [data.getUint16(12, true), data.getUint16(14, true)];
  checkSizes(file, { width, height, mips: 1 });
  const format = pixelFormat(bytes);
  return {
    ...{ width, height, flags: bytes[17]!, packed: (bytes[2]! & PACKED) !== 0 },
    format: format === 'palette' ? undefined : format,
    paletteAt: HEADER + bytes[0]!,
    paletteBytes: bytes[1] === 1 ? data.getUint16(5, true) * Math.ceil(bytes[7]! / 8) : 0,
  };
}

/** @throws FormatError with the offset and what was expected and found there */
export function readTga(bytes: Uint8Array, file: string): Picture {
  const { width, height, format, packed, paletteAt, paletteBytes, flags } = readHeader(bytes, file);
  const at = paletteAt + paletteBytes;
  const size = format?.bytes ?? 1;
  const raw = packed
    ? unpackRuns(bytes, at, width * height, size, file)
    : plainPixels(bytes, at, width * height * size, file);
  const level = inScreenOrder(raw, width * size, size, flags);
  if (format !== undefined) return oneLevel(format, width, height, level);
  const first = view(bytes).getUint16(3, true);
  const count = Math.min(view(bytes).getUint16(5, true), 256 - first);
  const colours = readColours(bytes, paletteAt, count, bytes[7]!, file);
  // Numbers below the first colour of the file are none.
  const indices = level.map((index) => (index < first ? 255 : index - first));
  checkIndices(indices, colours.length / 4, file);
  return oneLevel(indexedColours(colours), width, height, indices);
}

/** From the upper left, whatever corner the file begins with; and back, for both are mirrored alike. */
function inScreenOrder(pixels: Uint8Array, row: number, size: number, flags: number): Uint8Array {
  const ordered = (flags & TOP) !== 0 ? pixels.slice() : upsideDown(pixels, row);
  if ((flags & RIGHT) !== 0)
    for (let at = 0; at < ordered.length; at += row) {
      const line = ordered.slice(at, at + row);
      for (let x = 0; x < row; x += size) ordered.set(line.subarray(row - x - size, row - x), at + x);
    }
  return ordered;
}

/** Colours with alpha, from the upper left, not packed. */
export function writeTga(pixels: Pixels): Uint8Array {
  const { width, height } = pixels;
  const head = new Uint8Array(HEADER);
  const data = view(head);
  head[2] = KINDS.colours;
  data.setUint16(12, width, true);
  data.setUint16(14, height, true);
  head[16] = 32;
  head[17] = TOP | 8;
  return new Uint8Array(Buffer.concat([head, packOneByOne(findPixelFormat('bgra8')!, pixels)]));
}

/** How the pixels lie in a file: two that are alike are read by the same programs. */
export const tgaStorage = (bytes: Uint8Array): string => [1, 2, 7, 16, 17].map((at) => bytes[at]).join();

/**
 * The picture in the file of another: its header, comment and palette, its order of rows, packed if it is. Its footer and what
 * else lies behind the pixels is left out: it says where things were.
 *
 * @param picture in the pixel format of the original
 */
export function graftTga(original: Uint8Array, { width, height, levels }: Picture, file: string): Uint8Array {
  const { format, packed, paletteAt, paletteBytes, flags } = readHeader(original, file);
  const size = format?.bytes ?? 1;
  const head = original.slice(0, paletteAt + paletteBytes);
  view(head).setUint16(12, width, true);
  view(head).setUint16(14, height, true);
  const first = format === undefined ? view(original).getUint16(3, true) : 0;
  // Without bits for alpha the fourth byte means nothing: some readers look at it all the same.
  const isOpaque = format?.name === 'bgrx8';
  const level = levels[0]!.map((byte, i) => (isOpaque && i % 4 === 3 ? 255 : byte + first));
  const ordered = inScreenOrder(level, width * size, size, flags);
  return new Uint8Array(Buffer.concat([head, packed ? packRuns(ordered, width * size, size) : ordered]));
}

function pixelFormat(bytes: Uint8Array): PixelFormat | 'palette' | undefined {
  const kind = bytes[2]! & ~PACKED;
  const depth = bytes[16]!;
  if (kind === KINDS.palette) return depth === 8 ? 'palette' : undefined;
  if (kind === KINDS.grey) return { 8: findPixelFormat('grey8'), 16: findPixelFormat('grey8a8') }[depth];
  return colourFormat(depth, bytes[17]! & 15);
}

const PLAIN_WORDS = maskedFormat(16, [0x7c00, 0x3e0, 0x1f, 0]);

/** @param alpha bits of it in a pixel: without any, the bits left over mean nothing */
const colourFormat = (depth: number, alpha: number): PixelFormat | undefined =>
  ({
    15: alpha === 0 ? PLAIN_WORDS : findPixelFormat('bgra5551'),
    16: alpha === 0 ? PLAIN_WORDS : findPixelFormat('bgra5551'),
    24: findPixelFormat('bgr8'),
    32: findPixelFormat(alpha === 0 ? 'bgrx8' : 'bgra8'),
  })[depth];

/** Red, green, blue and alpha of each colour; colours that are all clear mean opaque ones. */
function readColours(bytes: Uint8Array, at: number, count: number, depth: number, file: string): Uint8Array {
  const format = colourFormat(depth, depth === 32 ? 8 : 0);
  if (format === undefined)
    throw new FormatError({ code: 'wrong-kind', file, offset: 7, field: 'palette depth', found: `${depth} bits` });
  if (count <= 0 || at + count * format.bytes > bytes.length)
    throw new FormatError({ code: 'cut-short', file, offset: at, what: 'the palette ends too early' });
  const colours = new Uint8Array(count * 4);
  for (let i = 0; i < count; i++) format.unpack(bytes, at + i * format.bytes, colours.subarray(i * 4, i * 4 + 4));
  if (colours.every((value, i) => i % 4 !== 3 || value === 0))
    for (let i = 3; i < colours.length; i += 4) colours[i] = 255;
  return colours;
}

const cutShort = (file: string, offset: number, expected: number) =>
  new FormatError({
    code: 'cut-short',
    file,
    offset,
    what: 'the picture ends too early',
    expected: `${expected.toLocaleString('en')} bytes of pixels`,
  });

function plainPixels(bytes: Uint8Array, at: number, length: number, file: string): Uint8Array {
  if (at + length > bytes.length) throw cutShort(file, bytes.length, length);
  return bytes.subarray(at, at + length);
}

/** Packets of a head and one pixel that repeats, or of as many pixels as the head says. */
function unpackRuns(bytes: Uint8Array, from: number, pixels: number, size: number, file: string): Uint8Array {
  // A packet of one pixel and a head stands for 128 at most: what cannot be in the file is not made room for.
  if (pixels * (1 + size) > Math.max(0, bytes.length - from) * 128) throw cutShort(file, bytes.length, pixels * size);
  const out = new Uint8Array(pixels * size);
  let at = from;
  for (let done = 0; done < out.length;) {
    const head = bytes[at++];
    if (head === undefined) throw cutShort(file, at, out.length);
    const length = ((head & 127) + 1) * size;
    const run = head >= 128;
    if (at + (run ? size : length) > bytes.length || done + length > out.length) throw cutShort(file, at, out.length);
    for (let i = 0; i < length; i++) out[done + i] = bytes[at + (run ? i % size : i)]!;
    at += run ? size : length;
    done += length;
  }
  return out;
}

/** No packet reaches beyond a row, as version 2.0 asks. */
function packRuns(pixels: Uint8Array, row: number, size: number): Uint8Array {
  const pieces: Uint8Array[] = [];
  const same = (a: number, b: number) => {
    for (let i = 0; i < size; i++) if (pixels[a + i] !== pixels[b + i]) return false;
    return true;
  };
  for (let start = 0; start < pixels.length; start += row) {
    const end = start + row;
    for (let at = start; at < end;) {
      let next = at + size;
      const most = Math.min(end, at + 128 * size);
      while (next < most && same(next, at)) next += size;
      const isRun = next > at + size;
      if (!isRun) while (next < most && !(next + size < most && same(next, next + size))) next += size;
      const count = (next - at) / size;
      pieces.push(Uint8Array.of((isRun ? 128 : 0) | (count - 1)), pixels.subarray(at, isRun ? at + size : next));
      at = next;
    }
  }
  return new Uint8Array(Buffer.concat(pieces));
}
