/** Hashes that need to know the length first: MurmurHash, CityHash and Jenkins' lookup3, by their authors' public-domain texts. */
import { copyOf } from '../bytes';
import type { Digest, Hasher } from './hasher';
import { cityHash64 } from './city-hash';

interface WholeHash {
  readonly name: string;
  readonly about: string;
  create(seed: bigint): Hasher;
}

/** A hash that is given all bytes at once, for callers that have them in pieces. */
export function gathered(run: (bytes: Uint8Array) => Digest): Hasher {
  const parts: Uint8Array[] = [];
  return {
    update: (bytes) => void parts.push(copyOf(bytes)),
    digest: () => run(parts.length === 1 ? parts[0]! : new Uint8Array(Buffer.concat(parts))),
  };
}

const seeded =
  (run: (bytes: Uint8Array, seed: bigint) => Digest) =>
  (seed: bigint): Hasher =>
    gathered((bytes) => run(bytes, seed));

const word = (b: Uint8Array, at: number) =>
  (b[at]! | (b[at + 1]! << 8) | (b[at + 2]! << 16) | (b[at + 3]! << 24)) >>> 0;
const rotl = (x: number, r: number) => (x << r) | (x >>> (32 - r));

function murmur2(bytes: Uint8Array, seed: bigint): number {
  const m = 0x5bd1e995;
  let h = (Number(seed) ^ bytes.length) | 0;
  let at = 0;
  for (; at + 4 <= bytes.length; at += 4) {
    let k = Math.imul(word(bytes, at), m);
    k ^= k >>> 24;
    h = Math.imul(h, m) ^ Math.imul(k, m);
  }
  const left = bytes.length - at;
  if (left >= 3) h ^= bytes[at + 2]! << 16;
  if (left >= 2) h ^= bytes[at + 1]! << 8;
  if (left >= 1) h = Math.imul(h ^ bytes[at]!, m);
  h ^= h >>> 13;
  h = Math.imul(h, m);
  return (h ^ (h >>> 15)) >>> 0;
}

/** MurmurHash64A, for little-endian machines. */
function murmur64a(bytes: Uint8Array, seed: bigint): number | bigint {
  const m = 0xc6a4a7935bd1e995n;
  const u64 = (x: bigint) => BigInt.asUintN(64, x);
  let h = u64(seed ^ u64(BigInt(bytes.length) * m));
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = 0;
  for (; at + 8 <= bytes.length; at += 8) {
    let k = u64(view.getBigUint64(at, true) * m);
    k = u64((k ^ (k >> 47n)) * m);
    h = u64((h ^ k) * m);
  }
  if (at < bytes.length) {
    for (let i = bytes.length - 1; i >= at; i--) h ^= BigInt(bytes[i]!) << BigInt(8 * (i - at));
    h = u64(h * m);
  }
  h = u64((h ^ (h >> 47n)) * m);
  h ^= h >> 47n;
  return h <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(h) : h;
}

/** MurmurHash3_x86_32. */
function murmur3(bytes: Uint8Array, seed: bigint): number {
  let h = Number(seed) | 0;
  const scramble = (k: number) => Math.imul(rotl(Math.imul(k, 0xcc9e2d51), 15), 0x1b873593);
  let at = 0;
  for (; at + 4 <= bytes.length; at += 4) h = (Math.imul(rotl(h ^ scramble(word(bytes, at)), 13), 5) + 0xe6546b64) | 0;
  let k = 0;
  for (let i = bytes.length - 1; i >= at; i--) k = (k << 8) | bytes[i]!;
  if (at < bytes.length) h ^= scramble(k);
  h ^= bytes.length;
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}

/** lookup3's hashlittle, byte by byte. */
function lookup3(bytes: Uint8Array, seed: bigint): number {
  let a = (0xdeadbeef + bytes.length + Number(seed)) | 0;
  let b = a;
  let c = a;
  let at = 0;
  let left = bytes.length;
  const at4 = (offset: number) => {
    let value = 0;
    for (let i = 3; i >= 0; i--) value = (value << 8) | (bytes[offset + i] ?? 0);
    return value;
  };
  while (left > 12) {
    a = (a + at4(at)) | 0;
    b = (b + at4(at + 4)) | 0;
    c = (c + at4(at + 8)) | 0;
    a = ((a - c) | 0) ^ rotl(c, 4);
    c = (c + b) | 0;
    b = ((b - a) | 0) ^ rotl(a, 6);
    a = (a + c) | 0;
    c = ((c - b) | 0) ^ rotl(b, 8);
    b = (b + a) | 0;
    a = ((a - c) | 0) ^ rotl(c, 16);
    c = (c + b) | 0;
    b = ((b - a) | 0) ^ rotl(a, 19);
    a = (a + c) | 0;
    c = ((c - b) | 0) ^ rotl(b, 4);
    b = (b + a) | 0;
    at += 12;
    left -= 12;
  }
  if (left === 0) return c >>> 0;
  a = (a + at4(at)) | 0;
  b = (b + at4(at + 4)) | 0;
  c = (c + at4(at + 8)) | 0;
  c = ((c ^ b) - rotl(b, 14)) | 0;
  a = ((a ^ c) - rotl(c, 11)) | 0;
  b = ((b ^ a) - rotl(a, 25)) | 0;
  c = ((c ^ b) - rotl(b, 16)) | 0;
  a = ((a ^ c) - rotl(c, 4)) | 0;
  b = ((b ^ a) - rotl(a, 14)) | 0;
  c = ((c ^ b) - rotl(b, 24)) | 0;
  return c >>> 0;
}

export const wholeHashers: readonly WholeHash[] = [
  { name: 'murmur2', about: 'MurmurHash2, 32 bits', create: seeded(murmur2) },
  { name: 'murmur2-64', about: 'MurmurHash64A, 64 bits', create: seeded(murmur64a) },
  { name: 'murmur3', about: 'MurmurHash3, x86, 32 bits', create: seeded(murmur3) },
  { name: 'city64', about: 'CityHash 1.1, 64 bits; a seed of 0 is that without one', create: seeded(cityHash64) },
  { name: 'lookup3', about: 'Jenkins’ lookup3 (hashlittle), 32 bits', create: seeded(lookup3) },
];
