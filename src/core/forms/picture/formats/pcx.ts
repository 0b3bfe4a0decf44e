/**
 * PCX as ZSoft's technical reference manual describes it (versions 0 to 5): 1 bit, 1 to 4 planes of a bit, 8 bits with a palette
 * of 256, 3 planes of 8 bits. Written as the file that it replaces is.
 */
import { FormatError } from '../../../faults';
import { isPcxHeader } from '../../../game';
import { checkSizes, type Picture } from '../picture';
import { findPixelFormat } from '../pixel-formats';
import { checkIndices, indexedColours, oneLevel } from './indexed';

const HEADER = 128;
/** Stands in front of the 256 colours at the end of the file. */
const PALETTE_MARK = 12;
const PALETTE_BYTES = 768;
/** The two upper bits of a byte that says how long a run is. */
const RUN = 0xc0;

const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

interface Header {
  readonly width: number;
  readonly height: number;
  /** Bits a pixel in one plane. */
  readonly bits: number;
  readonly planes: number;
  /** Bytes of a row of one plane. */
  readonly row: number;
  readonly packed: boolean;
}

function readHeader(bytes: Uint8Array, file: string): Header {
  if (!isPcxHeader(bytes)) throw new FormatError({ code: 'wrong-kind', file, offset: 0, expected: 'a header of PCX' });
  const data = view(bytes);
  const [left, top, right, bottom] = [4, 6, 8, 10].map((at) => data.getUint16(at, true)) as [
    number,
    number,
    number,
    number,
  ];
  const found = {
    width: right - left + 1,
    height: bottom - top + 1,
    bits: bytes[3]!,
    planes: bytes[65]!,
    row: data.getUint16(66, true),
    packed: bytes[2] === 1,
  };
  checkSizes(file, { ...found, mips: 1 });
  const { bits, planes, row, width } = found;
  const isKnown = bits === 8 ? planes === 1 || planes === 3 : planes === 1 || bits === 1;
  if (!isKnown)
    throw new FormatError({
      code: 'wrong-kind',
      file,
      offset: 65,
      field: 'planes',
      what: 'pixels of this kind are not read',
      found: `${planes} of ${bits} bits`,
    });
  if (row * 8 < width * bits)
    throw new FormatError({
      code: 'wrong-kind',
      file,
      offset: 66,
      field: 'bytes of a row',
      expected: `${Math.ceil((width * bits) / 8)} or more`,
      found: String(row),
    });
  return found;
}

/** @throws FormatError with the offset and what was expected and found there */
export function readPcx(bytes: Uint8Array, file: string): Picture {
  const header = readHeader(bytes, file);
  const { width, height, bits, planes, row } = header;
  const rows = unpackRows(bytes, header, file);
  if (planes === 3 && bits === 8) {
    const level = new Uint8Array(width * height * 3);
    for (let i = 0; i < level.length; i++) {
      const pixel = Math.floor(i / 3);
      const y = Math.floor(pixel / width);
      level[i] = rows[(y * planes + (i % 3)) * row + (pixel % width)]!;
    }
    return oneLevel(findPixelFormat('rgb8')!, width, height, level);
  }
  const indices = new Uint8Array(width * height);
  const most = (1 << bits) - 1;
  for (let y = 0; y < height; y++)
    for (let plane = 0; plane < planes; plane++)
      for (let x = 0; x < width; x++) {
        const bit = x * bits;
        const value = (rows[(y * planes + plane) * row + (bit >> 3)]! >> (8 - bits - (bit & 7))) & most;
        indices[y * width + x]! |= value << (plane * bits);
      }
  const colours = coloursOf(bytes, bits * planes, file);
  checkIndices(indices, colours.length / 4, file);
  return oneLevel(indexedColours(colours), width, height, indices);
}

/** All rows, plane after plane. */
function unpackRows(bytes: Uint8Array, { height, planes, row, packed }: Header, file: string): Uint8Array {
  const length = row * planes * height;
  // A run of two bytes is at most 63 long: what cannot be in the file is not made room for.
  if (length > (bytes.length - HEADER) * (packed ? 32 : 1)) throw tooShort(file, bytes.length);
  const out = new Uint8Array(length);
  if (!packed) {
    out.set(bytes.subarray(HEADER, HEADER + out.length));
    return out;
  }
  let at = HEADER;
  for (let done = 0; done < out.length;) {
    const byte = bytes[at++];
    if (byte === undefined) throw tooShort(file, bytes.length);
    if (byte < RUN) {
      out[done++] = byte;
      continue;
    }
    const value = bytes[at++];
    if (value === undefined) throw tooShort(file, bytes.length);
    const length = byte & ~RUN;
    out.fill(value, done, done + length);
    done += length;
  }
  return out;
}

/** Red, green, blue and alpha of each colour. */
function coloursOf(bytes: Uint8Array, bits: number, file: string): Uint8Array {
  // One bit is black and white, whatever the header has.
  if (bits === 1) return Uint8Array.of(0, 0, 0, 255, 255, 255, 255, 255);
  if (bits < 8) return opaque(bytes.subarray(16, 16 + 3 * (1 << bits)));
  const at = bytes.length - PALETTE_BYTES;
  if (bytes[at - 1] === PALETTE_MARK) return opaque(bytes.subarray(at));
  throw new FormatError({
    code: 'wrong-kind',
    file,
    offset: Math.max(0, at - 1),
    field: 'palette',
    expected: String(PALETTE_MARK),
    found: String(bytes[at - 1]),
  });
}

const opaque = (rgb: Uint8Array): Uint8Array =>
  Uint8Array.from({ length: (rgb.length / 3) * 4 }, (_, i) => (i % 4 === 3 ? 255 : rgb[(i >> 2) * 3 + (i % 4)]!));

/** How the pixels lie in a file: two that are alike are read by the same programs. */
export function pcxStorage(bytes: Uint8Array, file: string): string {
  const { bits, planes, packed } = readHeader(bytes, file);
  return [bytes[1], bits, planes, packed].join();
}

const tooShort = (file: string, offset: number) =>
  new FormatError({ code: 'cut-short', file, offset, what: 'the picture ends too early' });

/**
 * The picture in the file of another: its header, its planes and its palette.
 *
 * @param picture in the pixel format of the original
 */
export function graftPcx(original: Uint8Array, { width, height, levels }: Picture, file: string): Uint8Array {
  const before = readHeader(original, file);
  const { bits, planes, packed } = before;
  // Even, as the manual asks.
  const row = width === before.width ? before.row : Math.ceil((width * bits) / 16) * 2;
  const head = original.slice(0, HEADER);
  const data = view(head);
  data.setUint16(8, data.getUint16(4, true) + width - 1, true);
  data.setUint16(10, data.getUint16(6, true) + height - 1, true);
  data.setUint16(66, row, true);
  const level = levels[0]!;
  const most = (1 << bits) - 1;
  const pieces: Uint8Array[] = [head];
  for (let y = 0; y < height; y++)
    for (let plane = 0; plane < planes; plane++) {
      const line = new Uint8Array(row);
      for (let x = 0; x < width; x++) {
        const pixel = y * width + x;
        if (planes === 3 && bits === 8) line[x] = level[pixel * 3 + plane]!;
        else {
          const value = (level[pixel]! >> (plane * bits)) & most;
          line[(x * bits) >> 3]! |= value << (8 - bits - ((x * bits) & 7));
        }
      }
      pieces.push(packed ? packRow(line) : line);
    }
  if (bits * planes === 8) pieces.push(original.slice(original.length - PALETTE_BYTES - 1));
  return new Uint8Array(Buffer.concat(pieces));
}

/** Runs never reach beyond a row of a plane. */
function packRow(line: Uint8Array): Uint8Array {
  const out: number[] = [];
  for (let at = 0; at < line.length;) {
    const value = line[at]!;
    let length = 1;
    while (length < 63 && at + length < line.length && line[at + length] === value) length++;
    if (length > 1 || value >= RUN) out.push(RUN | length);
    out.push(value);
    at += length;
  }
  return Uint8Array.from(out);
}
