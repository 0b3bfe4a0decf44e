/** KTX 2.0 of the Khronos Group: read without supercompression or with zstd, written without. */
import { findCodec, prepareCodecs } from '../../../codecs';
import { FormatError } from '../../../faults';
import { checkSizes, mipBytes, type Picture } from '../picture';
import { findPixelFormat, type PixelFormat } from '../pixel-formats';

const IDENTIFIER = [0xab, 0x4b, 0x54, 0x58, 0x20, 0x32, 0x30, 0xbb, 0x0d, 0x0a, 0x1a, 0x0a];
const HEADER = 80;
const ZSTD = 2;
/** The levels of a picture together at most. */
const MOST_BYTES = 1 << 30;

/** Numbers of Vulkan formats: the plain one and the one in sRGB. */
const VULKAN: Readonly<Record<string, readonly [plain: number, srgb?: number]>> = {
  rgb565: [4],
  r8: [9, 15],
  rg8: [16, 22],
  rgb8: [23, 29],
  bgr8: [30, 36],
  rgba8: [37, 43],
  bgra8: [44, 50],
  bc1: [133, 134],
  bc2: [135, 136],
  bc3: [137, 138],
  bc4: [139],
  bc5: [141],
  bc6h: [143],
  bc6hs: [144],
  bc7: [145, 146],
};
/** BC1 without its transparent colour. */
const BC1_OPAQUE: readonly number[] = [131, 132];

/** What the data format descriptor says of a format: its colour model, and bits of its samples by channel. */
const MODELS: Readonly<Record<string, number>> = {
  bc1: 128,
  bc2: 129,
  bc3: 130,
  bc4: 131,
  bc5: 132,
  bc6h: 133,
  bc6hs: 133,
  bc7: 134,
};

const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

export const isKtx2 = (bytes: Uint8Array): boolean => IDENTIFIER.every((byte, i) => bytes[i] === byte);

/** @throws FormatError with the offset and what was expected and found there */
export async function readKtx2(bytes: Uint8Array, file: string): Promise<Picture> {
  const data = view(bytes);
  if (!isKtx2(bytes) || bytes.length < HEADER)
    throw new FormatError({ code: 'wrong-kind', file, offset: 0, expected: 'KTX 20 and a header of 80 bytes' });
  const number = data.getUint32(12, true);
  const found = Object.entries(VULKAN).find(([, both]) => both.includes(number));
  const name = BC1_OPAQUE.includes(number) ? 'bc1' : found?.[0];
  if (name === undefined)
    throw new FormatError({
      code: 'wrong-kind',
      file,
      offset: 12,
      field: 'vkFormat',
      what: 'these pixels are not known',
      found: `format ${number}`,
    });
  const format = findPixelFormat(name)!;
  const srgb = number === 132 || found?.[1][1] === number;
  const [width, height, depth, layers, faces, mips, packing] = [20, 24, 28, 32, 36, 40, 44].map((at) =>
    data.getUint32(at, true),
  ) as [number, number, number, number, number, number, number];
  if (faces !== 1 && faces !== 6)
    throw new FormatError({
      code: 'wrong-kind',
      file,
      offset: 36,
      field: 'faceCount',
      expected: '1 or 6',
      found: String(faces),
    });
  if (packing !== 0 && packing !== ZSTD)
    throw new FormatError({
      code: 'wrong-kind',
      file,
      offset: 44,
      field: 'supercompressionScheme',
      what: 'this way of packing is not read',
      expected: 'none or zstd',
      found: String(packing),
    });
  const facts: Omit<Picture, 'levels'> = {
    width,
    height: Math.max(1, height),
    depth: Math.max(1, depth),
    layers: Math.max(1, layers),
    faces,
    mips: Math.max(1, mips),
    format,
    srgb,
  };
  checkSizes(file, facts);
  const images = facts.layers * faces;
  const levels: Uint8Array[] = new Array<Uint8Array>(images * facts.mips);
  for (let mip = 0; mip < facts.mips; mip++) {
    const row = HEADER + mip * 24;
    const [at, length] = [0, 8].map((more) => Number(data.getBigUint64(row + more, true))) as [number, number];
    if (at + length > bytes.length)
      throw new FormatError({
        code: 'cut-short',
        file,
        offset: row,
        what: `mip ${mip} reaches beyond the file`,
        expected: `at most ${bytes.length.toLocaleString('en')} bytes`,
        found: (at + length).toLocaleString('en'),
      });
    const size = mipBytes(facts, mip);
    let plain = bytes.subarray(at, at + length);
    if (packing === ZSTD) plain = await unpacked(plain, size * images, file);
    if (plain.length < size * images)
      throw new FormatError({
        code: 'size-differs',
        file,
        offset: at,
        what: `mip ${mip} has too few bytes`,
        expected: (size * images).toLocaleString('en'),
        found: plain.length.toLocaleString('en'),
      });
    for (let image = 0; image < images; image++)
      levels[image * facts.mips + mip] = plain.subarray(image * size, (image + 1) * size);
  }
  return { ...facts, levels };
}

async function unpacked(bytes: Uint8Array, length: number, file: string): Promise<Uint8Array> {
  if (length > MOST_BYTES) throw new FormatError({ code: 'limit-reached', file, what: 'the picture is too large' });
  await prepareCodecs();
  return findCodec('zstd')!.decode(bytes, { params: {}, plainSize: length, maxPlainBytes: length });
}

/** @throws FormatError `wrong-kind` for pixels that have no number */
export function writeKtx2({ format, width, height, depth, layers, faces, mips, srgb, levels }: Picture): Uint8Array {
  const numbers = VULKAN[format.name];
  if (numbers === undefined)
    throw new FormatError({
      code: 'wrong-kind',
      what: `KTX2 does not keep ${format.title}`,
      hint: 'Choose PNG or TGA.',
    });
  const dfd = descriptor(format, srgb && numbers[1] !== undefined);
  const dfdAt = HEADER + mips * 24;
  // Levels are aligned to their blocks and to 4 bytes.
  const align = format.bytes % 4 === 0 ? format.bytes : format.bytes * 4;
  const images = layers * faces;
  const lengths = Array.from({ length: mips }, (_, mip) => levels[mip]!.length * images);
  const starts: number[] = [];
  let at = dfdAt + dfd.length;
  // The smallest mip comes first, as the standard has it.
  for (let mip = mips - 1; mip >= 0; mip--) {
    at = Math.ceil(at / align) * align;
    starts[mip] = at;
    at += lengths[mip]!;
  }
  const out = new Uint8Array(at);
  const data = view(out);
  out.set(IDENTIFIER);
  data.setUint32(12, srgb ? (numbers[1] ?? numbers[0]) : numbers[0], true);
  data.setUint32(16, 1, true); // bytes of a number: every format here has them
  for (const [i, value] of [width, height, depth > 1 ? depth : 0, layers > 1 ? layers : 0, faces, mips, 0].entries())
    data.setUint32(20 + i * 4, value, true);
  data.setUint32(48, dfdAt, true);
  data.setUint32(52, dfd.length, true);
  for (let mip = 0; mip < mips; mip++) {
    const row = HEADER + mip * 24;
    data.setBigUint64(row, BigInt(starts[mip]!), true);
    data.setBigUint64(row + 8, BigInt(lengths[mip]!), true);
    data.setBigUint64(row + 16, BigInt(lengths[mip]!), true);
    for (let image = 0; image < images; image++) {
      const level = levels[image * mips + mip]!;
      out.set(level, starts[mip]! + image * level.length);
    }
  }
  out.set(dfd, dfdAt);
  return out;
}

/** The basic data format descriptor: Khronos Data Format Specification 1.3, chapter 5. */
function descriptor(format: PixelFormat, srgb: boolean): Uint8Array {
  const samples = samplesOf(format);
  const out = new Uint8Array(4 + 24 + samples.length * 16);
  const data = view(out);
  data.setUint32(0, out.length, true);
  data.setUint32(4, 0, true); // Khronos, basic
  data.setUint16(8, 2, true);
  data.setUint16(10, 24 + samples.length * 16, true);
  out[12] = MODELS[format.name] ?? 1;
  out[13] = 1; // BT.709
  out[14] = srgb ? 2 : 1;
  out[15] = 0; // straight alpha
  out[16] = out[17] = format.side - 1;
  out[20] = format.bytes;
  samples.forEach(({ at, bits, channel, most }, i) => {
    const row = 28 + i * 16;
    data.setUint16(row, at, true);
    out[row + 2] = bits - 1;
    // Alpha is never sRGB.
    out[row + 3] = channel === 15 && srgb ? channel | 0x10 : channel;
    data.setUint32(row + 12, most, true);
  });
  return out;
}

interface Sample {
  readonly at: number;
  readonly bits: number;
  readonly channel: number;
  readonly most: number;
}

function samplesOf(format: PixelFormat): Sample[] {
  const ALL = 0xffffffff;
  switch (format.name) {
    case 'bc1':
      return [{ at: 0, bits: 64, channel: 1, most: ALL }];
    case 'bc2':
    case 'bc3':
      return [
        { at: 0, bits: 64, channel: 15, most: ALL },
        { at: 64, bits: 64, channel: 0, most: ALL },
      ];
    case 'bc4':
      return [{ at: 0, bits: 64, channel: 0, most: ALL }];
    case 'bc5':
      return [
        { at: 0, bits: 64, channel: 0, most: ALL },
        { at: 64, bits: 64, channel: 1, most: ALL },
      ];
    case 'bc6h':
    case 'bc6hs':
      // Marked as floats, the most being 1.
      return [{ at: 0, bits: 128, channel: 0x80, most: 0x3f800000 }];
    case 'bc7':
      return [{ at: 0, bits: 128, channel: 0, most: ALL }];
    case 'rgb565':
      return [
        { at: 0, bits: 5, channel: 2, most: 31 },
        { at: 5, bits: 6, channel: 1, most: 63 },
        { at: 11, bits: 5, channel: 0, most: 31 },
      ];
    default: {
      const order = format.name.startsWith('b') ? [2, 1, 0, 15] : [0, 1, 2, 15];
      return order.slice(0, format.bytes).map((channel, i) => ({ at: i * 8, bits: 8, channel, most: 255 }));
    }
  }
}
