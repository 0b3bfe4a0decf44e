/**
 * How much a packed stretch unpacks to, read from its own headers without unpacking it: libraries that take no limit
 * would fill the memory first and be asked afterwards.
 */

/** The largest block of Zstandard (RFC 8878, section 3.1.1.2.4). */
const ZSTD_BLOCK = 128 << 10;

/** One frame of Zstandard, and the most it unpacks to. */
export interface ZstdFrame {
  readonly start: number;
  readonly end: number;
  /** Exact where the header says it or its blocks are raw or repeated, else the most its blocks can hold. */
  readonly room: number;
}

/**
 * The frames of a stretch (RFC 8878, section 3.1).
 *
 * @returns undefined when this is no row of whole frames
 */
export function zstdFrames(stored: Uint8Array): ZstdFrame[] | undefined {
  const view = viewOf(stored);
  const frames: ZstdFrame[] = [];
  let at = 0;
  while (at + 8 <= stored.length) {
    const magic = view.getUint32(at, true);
    // Section 3.1.2: frames to skip.
    if (magic >>> 4 === 0x184d2a5) {
      at += 8 + view.getUint32(at + 4, true);
      continue;
    }
    const frame = magic === 0xfd2fb528 ? zstdFrame(stored, view, at) : undefined;
    if (frame === undefined) return undefined;
    frames.push(frame);
    at = frame.end;
  }
  return at === stored.length && frames.length > 0 ? frames : undefined;
}

function zstdFrame(stored: Uint8Array, view: DataView, start: number): ZstdFrame | undefined {
  const descriptor = stored[start + 4]!;
  const single = (descriptor & 0x20) !== 0;
  const checksum = (descriptor & 4) === 0 ? 0 : 4;
  let at = start + 5 + (single ? 0 : 1) + [0, 1, 2, 4][descriptor & 3]!;
  const flag = descriptor >> 6;
  const sizeBytes = flag === 0 ? Number(single) : 1 << flag;
  if (at + sizeBytes > stored.length) return undefined;
  let said: number | undefined;
  if (sizeBytes === 1) said = stored[at]!;
  else if (sizeBytes === 2) said = view.getUint16(at, true) + 256;
  else if (sizeBytes === 4) said = view.getUint32(at, true);
  else if (sizeBytes === 8) said = Number(view.getBigUint64(at, true));
  at += sizeBytes;
  let room = 0;
  for (let last = false; !last;) {
    if (at + 3 > stored.length) return undefined;
    const header = stored[at]! | (stored[at + 1]! << 8) | (stored[at + 2]! << 16);
    last = (header & 1) === 1;
    const type = (header >> 1) & 3;
    const size = header >> 3;
    if (type === 3) return undefined;
    room += type === 2 ? ZSTD_BLOCK : size;
    at += 3 + (type === 1 ? 1 : size);
  }
  at += checksum;
  return at > stored.length ? undefined : { start, end: at, room: said ?? room };
}

/**
 * The .xz format, version 1.2.1, sections 2 and 3: the sizes in the headers of the LZMA2 chunks, which are what a decoder
 * goes by; the index at the end only repeats them.
 *
 * @returns what the chunks say as far as they are whole
 */
export function xzClaim(stored: Uint8Array): number {
  let at = 12;
  let total = 0;
  const check = [0, 4, 4, 4, 8, 8, 8, 16, 16, 16, 32, 32, 32, 64, 64, 64][(stored[7] ?? 0) & 15]!;
  while (at < stored.length && stored[at] !== 0) {
    at += (stored[at]! + 1) * 4;
    for (let control = stored[at] ?? 0; control !== 0; control = stored[at] ?? 0) {
      const low = (stored[at + 1] ?? 0) * 256 + (stored[at + 2] ?? 0) + 1;
      if (control < 0x80) {
        total += low;
        at += 3 + low;
      } else {
        total += (control & 0x1f) * 65_536 + low;
        const packed = (stored[at + 3] ?? 0) * 256 + (stored[at + 4] ?? 0) + 1;
        at += (control >= 0xc0 ? 6 : 5) + packed;
      }
    }
    at = Math.ceil((at + 1) / 4) * 4 + check;
  }
  return total;
}

/** Snappy: the plain size is in front as LEB128. */
export function snappyClaim(stored: Uint8Array): number {
  let size = 0;
  for (let i = 0; i < 5; i++) {
    size += ((stored[i] ?? 0) & 0x7f) * 2 ** (7 * i);
    if (((stored[i] ?? 0) & 0x80) === 0) break;
  }
  return size;
}

/** LZ4 frames (LZ4 Frame Format 1.6.4): the sum over their blocks, counted where they are packed. */
export function lz4FrameClaim(stored: Uint8Array): number {
  const view = viewOf(stored);
  let at = 0;
  let total = 0;
  while (at + 7 <= stored.length) {
    const magic = view.getUint32(at, true);
    if (magic >>> 4 === 0x184d2a5) {
      at += 8 + view.getUint32(at + 4, true);
      continue;
    }
    if (magic !== 0x184d2204) return total;
    const flags = stored[at + 4]!;
    at += 7 + ((flags & 8) === 0 ? 0 : 8) + ((flags & 1) === 0 ? 0 : 4);
    for (;;) {
      if (at + 4 > stored.length) return total;
      const size = view.getUint32(at, true);
      at += 4;
      if (size === 0) break;
      const length = size & 0x7fffffff;
      total += size >>> 31 === 1 ? length : lz4BlockLength(stored, at, Math.min(at + length, stored.length));
      at += length + ((flags & 16) === 0 ? 0 : 4);
    }
    at += (flags & 4) === 0 ? 0 : 4;
  }
  return total;
}

/** LZ4 Block Format: what the sequences between two places make together. */
function lz4BlockLength(stored: Uint8Array, from: number, to: number): number {
  let at = from;
  let total = 0;
  const lengthOf = (short: number) => {
    if (short < 15) return short;
    let length = short;
    for (let next = 255; next === 255 && at < to;) length += next = stored[at++]!;
    return length;
  };
  while (at < to) {
    const token = stored[at++]!;
    const literals = lengthOf(token >> 4);
    total += literals;
    at += literals;
    // The last sequence has literals only.
    if (at >= to) break;
    at += 2;
    total += lengthOf(token & 15) + 4;
  }
  return total;
}

function viewOf(bytes: Uint8Array): DataView {
  return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}
