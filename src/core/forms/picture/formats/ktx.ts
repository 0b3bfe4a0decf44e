/** KTX 1.1 of the Khronos Group: the container of OpenGL's pixels. Written as the file that it replaces is. */
import { FormatError } from '../../../faults';
import { checkSizes, mipBytes, mipSide, type Picture } from '../picture';
import { findPixelFormat, type PixelFormat } from '../pixel-formats';

const IDENTIFIER = [0xab, 0x4b, 0x54, 0x58, 0x20, 0x31, 0x31, 0xbb, 0x0d, 0x0a, 0x1a, 0x0a];
const HEADER = 64;
const NATIVE = 0x04030201;

/** Numbers of OpenGL for pixels in blocks (`glInternalFormat`); those of sRGB are in the second list. */
const BLOCKS: readonly (readonly [name: string, plain: readonly number[], srgb: readonly number[]])[] = [
  ['bc1', [0x83f0, 0x83f1], [0x8c4c, 0x8c4d]],
  ['bc2', [0x83f2], [0x8c4e]],
  ['bc3', [0x83f3], [0x8c4f]],
  ['bc4', [0x8dbb], []],
  ['bc5', [0x8dbd], []],
  ['bc7', [0x8e8c], [0x8e8d]],
  ['bc6hs', [0x8e8e], []],
  ['bc6h', [0x8e8f], []],
];
const UNSIGNED_BYTE = 0x1401;
const UNSIGNED_SHORT_565 = 0x8363;
/** `glFormat` of pixels that lie one by one, a byte for each channel. */
const BYTES: Readonly<Record<number, string>> = {
  0x1903: 'r8',
  0x1906: 'a8',
  0x1907: 'rgb8',
  0x1908: 'rgba8',
  0x1909: 'grey8',
  0x190a: 'grey8a8',
  0x80e0: 'bgr8',
  0x80e1: 'bgra8',
  0x8227: 'rg8',
};
const SRGB_INTERNAL = [0x8c40, 0x8c41, 0x8c42, 0x8c43];

const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
const upTo4 = (length: number) => Math.ceil(length / 4) * 4;

export const isKtx = (bytes: Uint8Array): boolean => IDENTIFIER.every((byte, i) => bytes[i] === byte);

interface Header {
  readonly facts: Omit<Picture, 'levels'>;
  readonly isArray: boolean;
  readonly littleEndian: boolean;
  /** Where the size of the first mip is. */
  readonly start: number;
}

function readHeader(bytes: Uint8Array, file: string): Header {
  if (!isKtx(bytes) || bytes.length < HEADER)
    throw new FormatError({ code: 'wrong-kind', file, offset: 0, expected: 'KTX 11 and a header of 64 bytes' });
  const data = view(bytes);
  const littleEndian = data.getUint32(12, true) === NATIVE;
  const number = (at: number) => data.getUint32(at, littleEndian);
  if (number(12) !== NATIVE)
    throw new FormatError({ code: 'wrong-kind', file, offset: 12, field: 'endianness', expected: '04030201' });
  const faces = number(52);
  if (faces !== 1 && faces !== 6)
    throw new FormatError({
      ...{ code: 'wrong-kind', file, offset: 52, field: 'numberOfFaces', expected: '1 or 6' },
      found: String(faces),
    });
  const { format, srgb } = pixelsOf(number(16), number(24), number(28), littleEndian, file);
  const facts = {
    ...{ width: number(36), height: Math.max(1, number(40)), depth: Math.max(1, number(44)) },
    ...{ layers: Math.max(1, number(48)), mips: Math.max(1, number(56)), format, srgb },
    faces: faces === 6 ? 6 : 1,
  } as const;
  checkSizes(file, facts);
  return { facts, isArray: number(48) > 0, littleEndian, start: HEADER + number(60) };
}

function pixelsOf(
  type: number,
  pixels: number,
  internal: number,
  littleEndian: boolean,
  file: string,
): { format: PixelFormat; srgb: boolean } {
  const block = BLOCKS.find(([, plain, srgb]) => plain.includes(internal) || srgb.includes(internal));
  if (type === 0 && block !== undefined)
    return { format: findPixelFormat(block[0])!, srgb: block[2].includes(internal) };
  const name =
    type === UNSIGNED_BYTE
      ? BYTES[pixels]
      : // Numbers of two bytes in the other order are in no format of ours.
        type === UNSIGNED_SHORT_565 && littleEndian
        ? 'rgb565'
        : undefined;
  if (name !== undefined) return { format: findPixelFormat(name)!, srgb: SRGB_INTERNAL.includes(internal) };
  const hex = (value: number) => value.toString(16).toUpperCase();
  throw new FormatError({
    code: 'wrong-kind',
    file,
    offset: 16,
    field: 'glInternalFormat',
    what: 'these pixels are not known',
    found: `type ${hex(type)}, format ${hex(pixels)}, internal format ${hex(internal)}`,
  });
}

/** Bytes of a row in the file: rows of pixels that lie one by one are padded to 4 bytes. */
function rowBytes({ width, format }: Omit<Picture, 'levels'>, mip: number): { plain: number; padded: number } {
  const plain = Math.ceil(mipSide(width, mip) / format.side) * format.bytes;
  return { plain, padded: format.side === 1 ? upTo4(plain) : plain };
}

/** @throws FormatError with the offset and what was expected and found there */
export function readKtx(bytes: Uint8Array, file: string): Picture {
  const { facts, isArray, littleEndian, start } = readHeader(bytes, file);
  const { layers, faces, mips } = facts;
  const levels = new Array<Uint8Array>(layers * faces * mips);
  let at = start;
  for (let mip = 0; mip < mips; mip++) {
    if (at + 4 > bytes.length) throw cutShort(file, at, `mip ${mip}`);
    const stated = view(bytes).getUint32(at, littleEndian);
    at += 4;
    const { plain, padded } = rowBytes(facts, mip);
    const size = (mipBytes(facts, mip) / plain) * padded;
    // Of a cube that is no array, the size of one face is stated.
    const expected = faces === 6 && !isArray ? size : size * layers * faces;
    if (stated !== expected)
      throw new FormatError({
        code: 'size-differs',
        file,
        offset: at - 4,
        what: `mip ${mip} has a size of its own`,
        expected: expected.toLocaleString('en'),
        found: stated.toLocaleString('en'),
      });
    for (let image = 0; image < layers * faces; image++) {
      if (at + size > bytes.length) throw cutShort(file, at, `mip ${mip}`);
      levels[image * mips + mip] = withoutPadding(bytes.subarray(at, at + size), plain, padded);
      at += upTo4(size);
    }
  }
  return { ...facts, levels };
}

const cutShort = (file: string, offset: number, what: string) =>
  new FormatError({ code: 'cut-short', file, offset, what: `${what} reaches beyond the file` });

function withoutPadding(level: Uint8Array, plain: number, padded: number): Uint8Array {
  if (plain === padded) return level;
  const out = new Uint8Array((level.length / padded) * plain);
  for (let row = 0; row * padded < level.length; row++)
    out.set(level.subarray(row * padded, row * padded + plain), row * plain);
  return out;
}

/**
 * The picture in the file of another: its header with the numbers of OpenGL, its keys and values.
 *
 * @param picture in the pixel format of the original
 */
export function graftKtx(original: Uint8Array, picture: Picture, file: string): Uint8Array {
  const { isArray, littleEndian, start } = readHeader(original, file);
  const { width, height, layers, faces, mips, levels } = picture;
  const head = original.slice(0, start);
  const data = view(head);
  data.setUint32(36, width, littleEndian);
  if (data.getUint32(40, littleEndian) !== 0) data.setUint32(40, height, littleEndian);
  data.setUint32(56, mips, littleEndian);
  const pieces: Uint8Array[] = [head];
  for (let mip = 0; mip < mips; mip++) {
    const { plain, padded } = rowBytes(picture, mip);
    const size = (mipBytes(picture, mip) / plain) * padded;
    const stated = new Uint8Array(4);
    view(stated).setUint32(0, faces === 6 && !isArray ? size : size * layers * faces, littleEndian);
    pieces.push(stated);
    for (let image = 0; image < layers * faces; image++) {
      const level = levels[image * mips + mip]!;
      const out = new Uint8Array(upTo4(size));
      for (let row = 0; row * plain < level.length; row++)
        out.set(level.subarray(row * plain, (row + 1) * plain), row * padded);
      pieces.push(out);
    }
  }
  return new Uint8Array(Buffer.concat(pieces));
}
