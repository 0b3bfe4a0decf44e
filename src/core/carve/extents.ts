/** Where things end that contain their own length: pictures, sounds, films and frames, by the standards of each. */
import { type ByteSource } from '../bytes';

/** Bytes of a thing from its first one, or undefined when it is none after all. */
export type Extent = (source: ByteSource, at: number) => Promise<number | undefined>;

/** A window over a source, so that walking in small steps does not read in small steps. */
class Walk {
  private bytes: Uint8Array = new Uint8Array(0);
  private from = 0;

  constructor(private readonly source: ByteSource) {}

  /** `length` bytes from an offset, or undefined where the file ends before. */
  async at(offset: number, length: number): Promise<Buffer | undefined> {
    if (offset < 0 || offset + length > this.source.size) return undefined;
    if (offset < this.from || offset + length > this.from + this.bytes.length) {
      this.from = offset;
      this.bytes = await this.source.read(offset, Math.min(this.source.size - offset, Math.max(length, WINDOW)));
    }
    const start = this.bytes.byteOffset + offset - this.from;
    return Buffer.from(this.bytes.buffer, start, length);
  }
}

const WINDOW = 64 << 10;
/** Parts of one thing that are walked through. */
const MAX_PARTS = 1_000_000;

/** PNG, third edition: chunks up to IEND. */
export const png: Extent = async (source, at) => {
  const walk = new Walk(source);
  for (let offset = at + 8, i = 0; i < MAX_PARTS; i++) {
    const head = await walk.at(offset, 8);
    if (head === undefined || !/^[A-Za-z]{4}$/.test(head.toString('latin1', 4))) return undefined;
    offset += 12 + head.readUInt32BE();
    if (offset > source.size) return undefined;
    if (head.toString('latin1', 4) === 'IEND') return offset - at;
  }
  return undefined;
};

/** JPEG (ISO/IEC 10918-1): marker segments, and scans up to EOI. */
export const jpeg: Extent = async (source, at) => {
  const walk = new Walk(source);
  let scanned = false;
  for (let offset = at + 2, i = 0; i < MAX_PARTS; i++) {
    const head = await walk.at(offset, 4);
    if (head?.[0] !== 0xff) return undefined;
    const marker = head[1]!;
    if (marker === 0xd9) return scanned ? offset + 2 - at : undefined;
    if (marker === 0xff) {
      offset++;
      continue;
    }
    if (marker < 0xc0) return undefined;
    offset += 2 + head.readUInt16BE(2);
    if (marker !== 0xda) continue;
    scanned = true;
    const end = await endOfScan(walk, offset, source.size);
    if (end === undefined) return undefined;
    offset = end;
  }
  return undefined;
};

/** The next marker that is neither a stuffed byte nor a restart. */
async function endOfScan(walk: Walk, from: number, size: number): Promise<number | undefined> {
  for (let offset = from; offset + 2 <= size;) {
    const length = Math.min(16 << 10, size - offset);
    const bytes = (await walk.at(offset, length))!;
    for (let i = bytes.indexOf(0xff); i >= 0 && i + 1 < length; i = bytes.indexOf(0xff, i + 1)) {
      const next = bytes[i + 1]!;
      if (next !== 0 && (next < 0xd0 || next > 0xd7)) return offset + i;
    }
    offset += Math.max(1, length - 1);
  }
  return undefined;
}

/** RIFF: the size is behind the tag. */
export const riff: Extent = async (source, at) => {
  const head = await new Walk(source).at(at, 16);
  if (head === undefined || !/^(WAVE|AVI |WEBP)[A-Za-z0-9 ]{3}/.test(head.toString('latin1', 8))) return undefined;
  return inside(source, at, 8 + head.readUInt32LE(4));
};

/** Ogg (RFC 3533): pages of one stream, up to the one that ends it. */
export const ogg: Extent = async (source, at) => {
  const walk = new Walk(source);
  let serial: number | undefined;
  for (let offset = at, i = 0; i < MAX_PARTS; i++) {
    const head = await walk.at(offset, 27);
    if (head === undefined || head.toString('latin1', 0, 5) !== 'OggS\0') return undefined;
    serial ??= head.readUInt32LE(14);
    if (head.readUInt32LE(14) !== serial) return undefined;
    const lengths = await walk.at(offset + 27, head[26]!);
    if (lengths === undefined) return undefined;
    offset += 27 + lengths.length + lengths.reduce((sum, one) => sum + one, 0);
    if (offset > source.size) return undefined;
    if ((head[5]! & 4) !== 0) return offset - at;
  }
  return undefined;
};

/** BMP: the size, zeros, where the pixels begin, and a header of a known size. */
export const bmp: Extent = async (source, at) => {
  const head = await new Walk(source).at(at, 18);
  if (head === undefined || head.readUInt32LE(6) !== 0) return undefined;
  const [size, pixels, header] = [head.readUInt32LE(2), head.readUInt32LE(10), head.readUInt32LE(14)];
  return [40, 52, 56, 108, 124].includes(header) && pixels >= 14 + header && pixels < size
    ? inside(source, at, size)
    : undefined;
};

/** GIF (87a and 89a): blocks up to the trailer. */
export const gif: Extent = async (source, at) => {
  const walk = new Walk(source);
  const head = await walk.at(at, 13);
  if (head === undefined || !/^GIF8[79]a$/.test(head.toString('latin1', 0, 6))) return undefined;
  const table = (flags: number) => ((flags & 0x80) === 0 ? 0 : 3 * 2 ** ((flags & 7) + 1));
  let offset = at + 13 + table(head[10]!);
  for (let i = 0; i < MAX_PARTS; i++) {
    const block = await walk.at(offset, 1);
    if (block === undefined) return undefined;
    if (block[0] === 0x3b) return offset + 1 - at;
    if (block[0] === 0x21) offset += 2;
    else if (block[0] === 0x2c) {
      const image = await walk.at(offset, 10);
      if (image === undefined) return undefined;
      offset += 11 + table(image[9]!);
    } else return undefined;
    for (;;) {
      const length = await walk.at(offset, 1);
      if (length === undefined) return undefined;
      offset += 1 + length[0]!;
      if (length[0] === 0) break;
    }
  }
  return undefined;
};

/** glTF binary, version 2: the length is in the header. */
export const glb: Extent = async (source, at) => {
  const head = await new Walk(source).at(at, 12);
  return head?.readUInt32LE(4) === 2 ? inside(source, at, head.readUInt32LE(8)) : undefined;
};

/** ISO base media (ISO/IEC 14496-12): top-level boxes with known names; `at` is where the first one begins. */
export const mp4: Extent = async (source, at) => {
  const walk = new Walk(source);
  const known = /^(ftyp|moov|mdat|free|skip|wide|moof|mfra|sidx|styp|meta|uuid|pnot)$/;
  const seen = new Set<string>();
  let offset = at;
  for (let i = 0; i < MAX_PARTS; i++) {
    const head = await walk.at(offset, 16).then((full) => full ?? walk.at(offset, 8));
    const name = head?.toString('latin1', 4, 8) ?? '';
    if (head === undefined || !known.test(name) || (name === 'ftyp' && i > 0)) break;
    const short = head.readUInt32BE();
    const length = short === 1 && head.length === 16 ? Number(head.readBigUInt64BE(8)) : short;
    if (length < 8 || offset + length > source.size) break;
    seen.add(name);
    offset += length;
  }
  return seen.has('moov') && (seen.has('mdat') || seen.has('moof')) ? offset - at : undefined;
};

/** DDS: the header stores width, height, mips and format. */
export const dds: Extent = async (source, at) => {
  const head = await new Walk(source).at(at, 148).then((full) => full ?? new Walk(source).at(at, 128));
  if (head === undefined || head.readUInt32LE(4) !== 124 || head.readUInt32LE(76) !== 32) return undefined;
  const [height, width, mips] = [head.readUInt32LE(12), head.readUInt32LE(16), Math.max(1, head.readUInt32LE(28))];
  const code = head.toString('latin1', 84, 88);
  const bits = head.readUInt32LE(88);
  if (width < 1 || height < 1 || width > 1 << 16 || height > 1 << 16 || mips > 17) return undefined;
  const dxgi = code === 'DX10' && head.length === 148 ? head.readUInt32LE(128) : 0;
  const block = /^(DXT1|ATI1|BC4[US])$/.test(code) || [70, 71, 72, 79, 80, 81].includes(dxgi) ? 8 : 16;
  const packed = code === 'DX10' || /^(DXT|ATI|BC)/.test(code);
  if (!packed && (bits === 0 || bits > 128)) return undefined;
  let size = code === 'DX10' ? 148 : 128;
  for (let i = 0; i < mips; i++) {
    const [w, h] = [Math.max(1, width >> i), Math.max(1, height >> i)];
    size += packed ? Math.ceil(w / 4) * Math.ceil(h / 4) * block : h * Math.ceil((w * bits) / 8);
  }
  return inside(source, at, size);
};

/** Zstandard (RFC 8878): blocks up to the last one. */
export const zstd: Extent = async (source, at) => {
  const walk = new Walk(source);
  const head = await walk.at(at, 6);
  if (head === undefined) return undefined;
  const flags = head[4]!;
  if ((flags & 0x08) !== 0) return undefined;
  const single = (flags & 0x20) !== 0;
  const sizeBytes = [single ? 1 : 0, 2, 4, 8][flags >> 6]!;
  let offset = at + 5 + (single ? 0 : 1) + [0, 1, 2, 4][flags & 3]! + sizeBytes;
  for (let i = 0; i < MAX_PARTS; i++) {
    const block = await walk.at(offset, 3);
    if (block === undefined) return undefined;
    const header = block.readUIntLE(0, 3);
    const kind = (header >> 1) & 3;
    if (kind === 3) return undefined;
    offset += 3 + (kind === 1 ? 1 : header >> 3);
    if ((header & 1) === 1) return inside(source, at, offset + ((flags & 4) === 0 ? 0 : 4) - at);
  }
  return undefined;
};

/** LZ4 frame format, version 1.6: blocks up to the mark of the end. */
export const lz4: Extent = async (source, at) => {
  const walk = new Walk(source);
  const head = await walk.at(at, 7);
  if (head === undefined) return undefined;
  const flags = head[4]!;
  if (flags >> 6 !== 1 || (flags & 2) !== 0 || (head[5]! & 0x8f) !== 0) return undefined;
  let offset = at + 7 + ((flags & 8) === 0 ? 0 : 8) + ((flags & 1) === 0 ? 0 : 4);
  for (let i = 0; i < MAX_PARTS; i++) {
    const block = await walk.at(offset, 4);
    if (block === undefined) return undefined;
    const header = block.readUInt32LE();
    offset += 4;
    if (header === 0) return inside(source, at, offset + ((flags & 4) === 0 ? 0 : 4) - at);
    offset += (header & 0x7fffffff) + ((flags & 0x10) === 0 ? 0 : 4);
  }
  return undefined;
};

function inside(source: ByteSource, at: number, length: number): number | undefined {
  return length > 0 && at + length <= source.size ? length : undefined;
}
