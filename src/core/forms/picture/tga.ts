/** TGA, version 2.0 of the Truevision file format specification: colours, grey and palettes, plain or run-length packed. */
import { FormatError } from '../../faults';
import { checkSizes, type Pixels } from './picture';
import { findPixelFormat, type PixelFormat } from './pixel-formats';

const HEADER = 18;
const TOP = 0x20;
const RIGHT = 0x10;
/** Kinds of image: with a palette, of colours, grey; 8 more when it is packed. */
const KINDS = { palette: 1, colours: 2, grey: 3 } as const;
const PACKED = 8;

const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

/** TGA has no signature: its header has to make sense, and its pixels have to be there. */
export function isTga(bytes: Uint8Array): boolean {
  if (bytes.length < HEADER) return false;
  const kind = bytes[2]! & ~PACKED;
  const depth = bytes[16]!;
  if (bytes[1]! > 1 || kind < 1 || kind > 3 || (bytes[2]! & ~0xb) !== 0) return false;
  if ((kind === KINDS.palette) !== (bytes[1] === 1)) return false;
  const data = view(bytes);
  return data.getUint16(12, true) > 0 && data.getUint16(14, true) > 0 && pixelFormat(kind, depth) !== undefined;
}

/** @throws FormatError with the offset and what was expected and found there */
export function readTga(bytes: Uint8Array, file: string): Pixels {
  if (!isTga(bytes)) throw new FormatError({ code: 'wrong-kind', file, offset: 0, expected: 'a header of TGA' });
  const data = view(bytes);
  const kind = bytes[2]! & ~PACKED;
  const width = data.getUint16(12, true);
  const height = data.getUint16(14, true);
  checkSizes(file, { width, height, mips: 1 });
  const paletteLength = bytes[1] === 1 ? data.getUint16(5, true) : 0;
  const paletteBytes = paletteLength * Math.ceil(bytes[7]! / 8);
  const paletteAt = HEADER + bytes[0]!;
  const format = pixelFormat(kind, bytes[16]!)!;
  const at = paletteAt + paletteBytes;
  const raw = pixelBytes(bytes, at, width * height, format.bytes, (bytes[2]! & PACKED) !== 0, file);
  const colours = kind === KINDS.palette ? palette(bytes, paletteAt, paletteLength, bytes[7]!, file) : undefined;
  const first = data.getUint16(3, true);
  const rgba = new Uint8Array(width * height * 4);
  const flags = bytes[17]!;
  // Without bits for alpha the fourth byte means nothing.
  const opaque = format.name === 'bgra8' && (flags & 15) === 0;
  const pixel = new Uint8Array(4);
  for (let i = 0; i < width * height; i++) {
    const column = i % width;
    const row = (i - column) / width;
    const x = (flags & RIGHT) !== 0 ? width - 1 - column : column;
    const y = (flags & TOP) !== 0 ? row : height - 1 - row;
    if (colours === undefined) format.unpack(raw, i * format.bytes, pixel);
    else {
      const index = raw[i]! - first;
      if (index < 0 || index >= paletteLength)
        throw new FormatError({
          code: 'wrong-kind',
          file,
          what: `pixel ${i} has a colour that the palette has not`,
          expected: `0 to ${paletteLength - 1}`,
          found: String(index),
        });
      pixel.set(colours.subarray(index * 4, index * 4 + 4));
    }
    if (opaque) pixel[3] = 255;
    rgba.set(pixel, (y * width + x) * 4);
  }
  return { width, height, rgba };
}

/** Colours with alpha, from the upper left, not packed. */
export function writeTga({ width, height, rgba }: Pixels): Uint8Array {
  const out = new Uint8Array(HEADER + width * height * 4);
  const data = view(out);
  out[2] = KINDS.colours;
  data.setUint16(12, width, true);
  data.setUint16(14, height, true);
  out[16] = 32;
  out[17] = TOP | 8;
  const format = findPixelFormat('bgra8')!;
  for (let i = 0; i < width * height; i++) format.pack!(rgba, i * 4, out, HEADER + i * 4);
  return out;
}

function pixelFormat(kind: number, depth: number): PixelFormat | undefined {
  if (kind === KINDS.palette) return depth === 8 ? findPixelFormat('grey8') : undefined;
  if (kind === KINDS.grey) return { 8: findPixelFormat('grey8'), 16: findPixelFormat('grey8a8') }[depth];
  return {
    15: findPixelFormat('bgra5551'),
    16: findPixelFormat('bgra5551'),
    24: findPixelFormat('bgr8'),
    32: findPixelFormat('bgra8'),
  }[depth];
}

function palette(bytes: Uint8Array, at: number, length: number, depth: number, file: string): Uint8Array {
  const format = pixelFormat(KINDS.colours, depth);
  if (format === undefined)
    throw new FormatError({ code: 'wrong-kind', file, offset: 7, field: 'palette depth', found: `${depth} bits` });
  if (at + length * format.bytes > bytes.length)
    throw new FormatError({ code: 'cut-short', file, offset: at, what: 'the palette ends too early' });
  const colours = new Uint8Array(length * 4);
  const pixel = new Uint8Array(4);
  for (let i = 0; i < length; i++) {
    format.unpack(bytes, at + i * format.bytes, pixel);
    colours.set(pixel, i * 4);
  }
  return colours;
}

/** The pixels one after the other; runs are unrolled. */
function pixelBytes(
  bytes: Uint8Array,
  from: number,
  pixels: number,
  size: number,
  packed: boolean,
  file: string,
): Uint8Array {
  const cut = (at: number) =>
    new FormatError({
      code: 'cut-short',
      file,
      offset: at,
      what: 'the picture ends too early',
      expected: `${pixels.toLocaleString('en')} pixels`,
    });
  if (!packed) {
    if (from + pixels * size > bytes.length) throw cut(bytes.length);
    return bytes.subarray(from, from + pixels * size);
  }
  const out = new Uint8Array(pixels * size);
  let at = from;
  for (let done = 0; done < out.length;) {
    const head = bytes[at++];
    if (head === undefined) throw cut(at);
    const length = ((head & 127) + 1) * size;
    const run = head >= 128;
    if (at + (run ? size : length) > bytes.length || done + length > out.length) throw cut(at);
    for (let i = 0; i < length; i++) out[done + i] = bytes[at + (run ? i % size : i)]!;
    at += run ? size : length;
    done += length;
  }
  return out;
}
