/** DDS as Microsoft's reference describes it, with the old header and with the DX10 extension. */
import { FormatError } from '../../../faults';
import { checkSizes, mipBytes, mipSide, type Picture } from '../picture';
import { findPixelFormat, masked, type Masks, type PixelFormat } from '../pixel-formats';
import { unpackPixels } from '../unpack';

const MAGIC = 0x20534444;
const HEADER = 124;
const FLAGS = {
  caps: 1,
  height: 2,
  width: 4,
  pitch: 8,
  format: 0x1000,
  mips: 0x20000,
  linear: 0x80000,
  depth: 0x800000,
};
const PIXELS = { alpha: 1, fourCc: 4, rgb: 0x40, luminance: 0x20000, alphaOnly: 2 };
const CAPS = { complex: 8, texture: 0x1000, mips: 0x400000 };
const CUBE = 0x200;
const ALL_FACES = 0xfc00;
const VOLUME = 0x200000;

/** Numbers of DXGI formats: the plain one and the one in sRGB. */
const DXGI: Readonly<Record<string, readonly [plain: number, srgb?: number]>> = {
  rgba8: [28, 29],
  bgra8: [87, 91],
  bgrx8: [88, 93],
  rgb565: [85],
  bgra5551: [86],
  bgra4: [115],
  r8: [61],
  rg8: [49],
  a8: [65],
  bc1: [71, 72],
  bc2: [74, 75],
  bc3: [77, 78],
  bc4: [80],
  bc5: [83],
  bc6h: [95],
  bc6hs: [96],
  bc7: [98, 99],
};
const FOUR_CC: Readonly<Record<string, string>> = {
  DXT1: 'bc1',
  DXT2: 'bc2p',
  DXT3: 'bc2',
  DXT4: 'bc3p',
  DXT5: 'bc3',
  ATI1: 'bc4',
  BC4U: 'bc4',
  ATI2: 'bc5',
  BC5U: 'bc5',
};
/** Of several codes for one format, the one that all readers take for the same. */
const CODES: Readonly<Record<string, string>> = {
  ...{ bc1: 'DXT1', bc2: 'DXT3', bc3: 'DXT5', bc4: 'BC4U', bc5: 'BC5U' },
  ...{ bc2p: 'DXT2', bc3p: 'DXT4' },
};
/** What the old header can say of the formats without a four-letter code. */
const OLD_MASKS: Readonly<Record<string, { bits: number; masks: Masks; flags: number }>> = {
  rgba8: { bits: 32, masks: [0xff, 0xff00, 0xff0000, 0xff000000], flags: PIXELS.rgb | PIXELS.alpha },
  bgra8: { bits: 32, masks: [0xff0000, 0xff00, 0xff, 0xff000000], flags: PIXELS.rgb | PIXELS.alpha },
  bgrx8: { bits: 32, masks: [0xff0000, 0xff00, 0xff, 0], flags: PIXELS.rgb },
  bgr8: { bits: 24, masks: [0xff0000, 0xff00, 0xff, 0], flags: PIXELS.rgb },
  rgb565: { bits: 16, masks: [0xf800, 0x7e0, 0x1f, 0], flags: PIXELS.rgb },
  bgra5551: { bits: 16, masks: [0x7c00, 0x3e0, 0x1f, 0x8000], flags: PIXELS.rgb | PIXELS.alpha },
  bgra4: { bits: 16, masks: [0xf00, 0xf0, 0xf, 0xf000], flags: PIXELS.rgb | PIXELS.alpha },
  grey8: { bits: 8, masks: [0xff, 0, 0, 0], flags: PIXELS.luminance },
  grey8a8: { bits: 16, masks: [0xff, 0, 0, 0xff00], flags: PIXELS.luminance | PIXELS.alpha },
  a8: { bits: 8, masks: [0, 0, 0, 0xff], flags: PIXELS.alphaOnly },
};

export const isDds = (bytes: Uint8Array): boolean => bytes.length >= 4 && view(bytes).getUint32(0, true) === MAGIC;

const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

/** @throws FormatError with the offset and what was expected and found there */
export function readDds(bytes: Uint8Array, file: string): Picture {
  const data = view(bytes);
  if (bytes.length < 4 + HEADER) throw cut(file, 4 + HEADER, bytes.length);
  if (!isDds(bytes) || data.getUint32(4, true) !== HEADER)
    throw new FormatError({ code: 'wrong-kind', file, offset: 0, expected: 'DDS and a header of 124 bytes' });
  const flags = data.getUint32(8, true);
  const height = data.getUint32(12, true);
  const width = data.getUint32(16, true);
  const caps = data.getUint32(112, true);
  const volume = (flags & FLAGS.depth) !== 0 || (caps & VOLUME) !== 0;
  let depth = volume ? Math.max(1, data.getUint32(24, true)) : 1;
  const mips = Math.max(1, data.getUint32(28, true));
  let faces: 1 | 6 = (caps & CUBE) !== 0 ? 6 : 1;
  if (faces === 6 && (caps & ALL_FACES) !== ALL_FACES)
    throw new FormatError({ code: 'wrong-kind', file, offset: 112, what: 'a cube without all six faces is not read' });
  let layers = 1;
  let at = 4 + HEADER;
  let srgb: boolean | undefined;
  let format: PixelFormat;
  const fourCc = Buffer.from(bytes.subarray(84, 88)).toString('latin1');
  if ((data.getUint32(80, true) & PIXELS.fourCc) !== 0 && fourCc === 'DX10') {
    if (bytes.length < at + 20) throw cut(file, at + 20, bytes.length);
    const number = data.getUint32(at, true);
    const [name, numbers] = Object.entries(DXGI).find(([, both]) => both.includes(number)) ?? [];
    if (name === undefined) throw unknown(file, at, `DXGI format ${number}`);
    format = findPixelFormat(name)!;
    srgb = numbers![1] === number;
    if ((data.getUint32(at + 8, true) & 4) !== 0) faces = 6;
    if (data.getUint32(at + 4, true) !== 4) depth = 1;
    layers = Math.max(1, data.getUint32(at + 12, true));
    at += 20;
  } else format = oldFormat(data, fourCc, file);
  checkSizes(file, { width, height, depth, layers, mips });
  const facts = { width, height, depth, layers, faces, mips, format, srgb: srgb ?? isColour(format) };
  const levels: Uint8Array[] = [];
  for (let image = 0; image < layers * faces; image++) {
    for (let mip = 0; mip < mips; mip++) {
      const length = mipBytes(facts, mip);
      if (at + length > bytes.length) throw cut(file, at + length, bytes.length, at);
      levels.push(bytes.subarray(at, at + length));
      at += length;
    }
  }
  return plain({ ...facts, levels });
}

/** Pixels of bits that only this file has become those of eight bits a channel. */
function plain(picture: Picture): Picture {
  const { format, levels, mips } = picture;
  if (findPixelFormat(format.name) !== undefined) return picture;
  return {
    ...picture,
    format: findPixelFormat('rgba8')!,
    levels: levels.map((bytes, i) => {
      const mip = i % mips;
      const rows = mipSide(picture.height, mip) * mipSide(picture.depth, mip);
      return unpackPixels(format, bytes, mipSide(picture.width, mip), rows);
    }),
  };
}

/** The file with other levels of the same sizes: its header stays as it is. */
export function graftDds(original: Uint8Array, levels: readonly Uint8Array[]): Uint8Array {
  const length = levels.reduce((sum, level) => sum + level.length, 0);
  const out = new Uint8Array(original);
  let at = original.length - length;
  for (const level of levels) {
    out.set(level, at);
    at += level.length;
  }
  return out;
}

function oldFormat(data: DataView, fourCc: string, file: string): PixelFormat {
  const flags = data.getUint32(80, true);
  if ((flags & PIXELS.fourCc) !== 0) {
    const name = FOUR_CC[fourCc];
    if (name === undefined) throw unknown(file, 84, `“${fourCc.replace(/[^\x20-\x7e]/g, '·')}”`);
    return findPixelFormat(name)!;
  }
  const bits = data.getUint32(88, true);
  const alpha = (flags & (PIXELS.alpha | PIXELS.alphaOnly)) !== 0 ? data.getUint32(104, true) : 0;
  const masks: Masks = [data.getUint32(92, true), data.getUint32(96, true), data.getUint32(100, true), alpha];
  if (![8, 16, 24, 32].includes(bits)) throw unknown(file, 88, `${bits} bits a pixel`);
  const grey = (flags & PIXELS.luminance) !== 0;
  const only = (flags & PIXELS.alphaOnly) !== 0;
  const known = Object.entries(OLD_MASKS).find(
    ([, old]) =>
      old.bits === bits &&
      ((old.flags & PIXELS.luminance) !== 0) === grey &&
      (only ? old.flags === PIXELS.alphaOnly : old.flags !== PIXELS.alphaOnly) &&
      old.masks[3] === masks[3] &&
      (only || old.masks[0] === masks[0]),
  );
  if (known !== undefined) return findPixelFormat(known[0])!;
  if (masks.every((mask) => mask === 0)) throw unknown(file, 92, 'no bits for any channel');
  return masked(
    `masks ${masks.map((mask) => mask.toString(16)).join(' ')}`,
    `${bits} bits a pixel`,
    bits,
    masks,
    alpha === 0 ? 'rgb' : 'rgba',
  );
}

const isColour = ({ channels }: PixelFormat) => channels.startsWith('rgb');

/**
 * Writes with the old header what that can say, and with the DX10 extension the rest.
 *
 * @throws FormatError `wrong-kind` for pixels that DDS has no number for
 */
export function writeDds(picture: Picture): Uint8Array {
  const { format, width, height, depth, layers, faces, mips, srgb, levels } = picture;
  const oldCode = CODES[format.name];
  const old = OLD_MASKS[format.name];
  // Old readers take blocks and plain pixels for colours in sRGB, and say nothing of it.
  const number = DXGI[format.name];
  const dx10 =
    number !== undefined && (layers > 1 || (oldCode === undefined && old === undefined) || (!srgb && isColour(format)));
  if (number === undefined && old === undefined && oldCode === undefined)
    throw new FormatError({
      code: 'wrong-kind',
      what: `DDS does not keep ${format.title}`,
      hint: 'Choose PNG or TGA.',
    });
  const length = levels.reduce((sum, level) => sum + level.length, 0);
  const start = 4 + HEADER + (dx10 ? 20 : 0);
  const out = new Uint8Array(start + length);
  const data = view(out);
  data.setUint32(0, MAGIC, true);
  data.setUint32(4, HEADER, true);
  const blocks = format.side > 1;
  data.setUint32(
    8,
    FLAGS.caps |
      FLAGS.height |
      FLAGS.width |
      FLAGS.format |
      (blocks ? FLAGS.linear : FLAGS.pitch) |
      (mips > 1 ? FLAGS.mips : 0) |
      (depth > 1 ? FLAGS.depth : 0),
    true,
  );
  data.setUint32(12, height, true);
  data.setUint32(16, width, true);
  data.setUint32(20, blocks ? levels[0]!.length : width * format.bytes, true);
  data.setUint32(24, depth > 1 ? depth : 0, true);
  data.setUint32(28, mips, true);
  data.setUint32(76, 32, true);
  if (dx10 || oldCode !== undefined) {
    data.setUint32(80, PIXELS.fourCc, true);
    out.set(Buffer.from(dx10 ? 'DX10' : oldCode!, 'latin1'), 84);
  } else {
    data.setUint32(80, old!.flags, true);
    data.setUint32(88, old!.bits, true);
    old!.masks.forEach((mask, i) => data.setUint32(92 + i * 4, mask, true));
  }
  data.setUint32(
    108,
    CAPS.texture | (mips > 1 ? CAPS.mips : 0) | (mips > 1 || faces > 1 || depth > 1 ? CAPS.complex : 0),
    true,
  );
  data.setUint32(112, (faces === 6 ? CUBE | ALL_FACES : 0) | (depth > 1 ? VOLUME : 0), true);
  if (dx10) {
    data.setUint32(128, srgb ? (number[1] ?? number[0]) : number[0], true);
    data.setUint32(132, depth > 1 ? 4 : 3, true);
    data.setUint32(136, faces === 6 ? 4 : 0, true);
    data.setUint32(140, layers, true);
  }
  let at = start;
  for (const level of levels) {
    out.set(level, at);
    at += level.length;
  }
  return out;
}

function cut(file: string, expected: number, found: number, offset?: number): FormatError {
  return new FormatError({
    code: 'cut-short',
    file,
    ...(offset === undefined ? {} : { offset }),
    what: 'the picture ends too early',
    expected: `${expected.toLocaleString('en')} bytes`,
    found: `${found.toLocaleString('en')}`,
  });
}

function unknown(file: string, offset: number, found: string): FormatError {
  return new FormatError({
    code: 'wrong-kind',
    file,
    offset,
    field: 'pixel format',
    what: 'these pixels are not known',
    found,
  });
}
