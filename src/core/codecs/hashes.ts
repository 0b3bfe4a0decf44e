/** Checksums and hashes by name; each takes its bytes in pieces. */
import { crc32, crc32c } from '@node-rs/crc32';
import { buf as adler32 } from 'adler-32';
import { crc16ccitt, crc16modbus, crc16xmodem, crc16 } from 'crc';
import { createHash } from 'node:crypto';
import createXxhash, { type XXHashAPI } from 'xxhash-wasm';
import { crc64 } from './crc64';
import { wholeHashers } from './whole-hashes';

export type Digest = number | bigint | Uint8Array;

export interface Hasher {
  update(bytes: Uint8Array): void;
  /** A number for checksums and short hashes (bigint beyond 2^53), bytes for cryptographic ones. */
  digest(): Digest;
}

export interface HashFacts {
  readonly name: string;
  readonly about: string;
  readonly seeded: boolean;
  create(seed: bigint): Hasher;
}

let xxhash: XXHashAPI | undefined;

/** Loads the hashes that are WebAssembly; done once for each process. */
export async function prepareHashes(): Promise<void> {
  xxhash ??= await createXxhash();
}

function xx(): XXHashAPI {
  if (xxhash === undefined) throw new Error('prepareCodecs() has not been awaited');
  return xxhash;
}

const short = (value: bigint): number | bigint => (value <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(value) : value);
const asBuffer = (bytes: Uint8Array) => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);

function folded(step: (bytes: Buffer, before: number) => number, start = 0): () => Hasher {
  return () => {
    let value = start;
    return { update: (bytes) => void (value = step(asBuffer(bytes), value)), digest: () => value >>> 0 };
  };
}

function digestOf(name: string): () => Hasher {
  return () => {
    const hash = createHash(name);
    return { update: (bytes) => void hash.update(bytes), digest: () => new Uint8Array(hash.digest()) };
  };
}

/** FNV (Fowler, Noll, Vo): offset basis and prime for 32 bits. */
function fnv32(xorFirst: boolean): () => Hasher {
  return () => {
    let hash = 0x811c9dc5;
    return {
      update: (bytes) => {
        for (let i = 0; i < bytes.length; i++)
          hash = xorFirst ? Math.imul(hash ^ bytes[i]!, 0x01000193) : Math.imul(hash, 0x01000193) ^ bytes[i]!;
      },
      digest: () => hash >>> 0,
    };
  };
}

/** The same for 64 bits, prime 2^40 + 0x1B3, on two halves. */
function fnv64(xorFirst: boolean): () => Hasher {
  return () => {
    let high = 0xcbf29ce4;
    let low = 0x84222325;
    const multiply = () => {
      // (high, low) × (2^40 + 0x1b3), kept to 64 bits.
      const product = low * 0x1b3;
      const carry = Math.floor(product / 0x100000000);
      high = (Math.imul(high, 0x1b3) + carry + Math.imul(low, 0x100)) >>> 0;
      low = product >>> 0;
    };
    return {
      update: (bytes) => {
        for (let i = 0; i < bytes.length; i++) {
          if (xorFirst) low = (low ^ bytes[i]!) >>> 0;
          multiply();
          if (!xorFirst) low = (low ^ bytes[i]!) >>> 0;
        }
      },
      digest: () => short((BigInt(high) << 32n) | BigInt(low)),
    };
  };
}

function looped(start: number, step: (hash: number, byte: number) => number): (seed: bigint) => Hasher {
  return (seed) => {
    let hash = seed === 0n ? start : Number(seed);
    return {
      update: (bytes) => {
        for (let i = 0; i < bytes.length; i++) hash = step(hash, bytes[i]!);
      },
      digest: () => hash >>> 0,
    };
  };
}

/** The sum of all bytes, of 16-bit or of 32-bit words (little-endian), within so many bits. */
function sum(bits: number): () => Hasher {
  return () => {
    let total = 0;
    return {
      update: (bytes) => {
        for (let i = 0; i < bytes.length; i++) total += bytes[i]!;
        total = bits === 32 ? total % 0x100000000 : total;
      },
      digest: () => total % 2 ** bits,
    };
  };
}

/** XOR of all bytes. */
function xorSum(): Hasher {
  let value = 0;
  return {
    update: (bytes) => {
      for (let i = 0; i < bytes.length; i++) value ^= bytes[i]!;
    },
    digest: () => value,
  };
}

/** Sums of words of `width` bytes, little-endian; the last word is filled up with zeros. */
function wordSum(width: 2 | 4): () => Hasher {
  return () => {
    let total = 0;
    let position = 0;
    return {
      update: (bytes) => {
        for (let i = 0; i < bytes.length; i++, position++)
          total = (total + bytes[i]! * 256 ** (position % width)) % 256 ** width;
      },
      digest: () => total,
    };
  };
}

/** Bob Jenkins' one-at-a-time hash. */
function jenkinsOne(seed: bigint): Hasher {
  let hash = Number(seed);
  return {
    update: (bytes) => {
      for (let i = 0; i < bytes.length; i++) {
        hash = (hash + bytes[i]!) | 0;
        hash = (hash + (hash << 10)) | 0;
        hash ^= hash >>> 6;
      }
    },
    digest: () => {
      let end = (hash + (hash << 3)) | 0;
      end ^= end >>> 11;
      return (end + (end << 15)) >>> 0;
    },
  };
}

const fact = (name: string, about: string, create: (seed: bigint) => Hasher, seeded = false): HashFacts => ({
  name,
  about,
  seeded,
  create,
});

const HASHES: ReadonlyMap<string, HashFacts> = new Map(
  [
    fact(
      'crc16',
      'CRC-16/ARC, polynomial 8005 reflected; check BB3D',
      folded((b, v) => crc16(b, v)),
    ),
    fact(
      'crc16-ccitt',
      'CRC-16/IBM-3740, polynomial 1021, start FFFF; check 29B1',
      folded((b, v) => crc16ccitt(b, v), 0xffff),
    ),
    fact(
      'crc16-xmodem',
      'CRC-16/XMODEM, polynomial 1021; check 31C3',
      folded((b, v) => crc16xmodem(b, v)),
    ),
    fact(
      'crc16-modbus',
      'CRC-16/MODBUS, polynomial 8005 reflected, start FFFF; check 4B37',
      folded((b, v) => crc16modbus(b, v), 0xffff),
    ),
    fact(
      'crc32',
      'CRC-32 of ISO-HDLC; check CBF43926',
      folded((b, v) => crc32(b, v)),
    ),
    fact(
      'crc32c',
      'CRC-32C (Castagnoli, RFC 3720); check E3069283',
      folded((b, v) => crc32c(b, v)),
    ),
    fact('crc64', 'CRC-64/XZ, polynomial 42F0E1EBA9EA3693 reflected; check 995DC9BBDF1939FA', () => crc64(true)),
    fact('crc64-ecma', 'CRC-64/ECMA-182, the same polynomial, not reflected; check 6C40DF5F0B497347', () =>
      crc64(false),
    ),
    fact(
      'adler32',
      'Adler-32 (RFC 1950); check 091E01DE',
      folded((b, v) => adler32(b, v | 0) >>> 0, 1),
    ),
    fact('fnv1-32', 'FNV-1, 32 bits', fnv32(false)),
    fact('fnv1a-32', 'FNV-1a, 32 bits', fnv32(true)),
    fact('fnv1-64', 'FNV-1, 64 bits', fnv64(false)),
    fact('fnv1a-64', 'FNV-1a, 64 bits', fnv64(true)),
    fact(
      'djb2',
      'hash × 33 + byte, from 5381',
      looped(5381, (h, b) => (Math.imul(h, 33) + b) | 0),
      true,
    ),
    fact(
      'djb2x',
      'hash × 33 XOR byte, from 5381',
      looped(5381, (h, b) => Math.imul(h, 33) ^ b),
      true,
    ),
    fact(
      'sdbm',
      'hash × 65599 + byte',
      looped(0, (h, b) => (Math.imul(h, 65599) + b) | 0),
      true,
    ),
    fact(
      'times31',
      'hash × 31 + byte',
      looped(0, (h, b) => (Math.imul(h, 31) + b) | 0),
      true,
    ),
    fact('jenkins', 'Jenkins’ one-at-a-time hash', jenkinsOne, true),
    ...wholeHashers.map((one) => fact(one.name, one.about, one.create, true)),
    fact('xxhash32', 'xxHash, 32 bits', (seed) => xxHasher(() => xx().create32(Number(seed))), true),
    fact('xxhash64', 'xxHash, 64 bits', (seed) => xxHasher(() => xx().create64(seed)), true),
    fact('sum8', 'the sum of all bytes, 8 bits', sum(8)),
    fact('sum16', 'the sum of all bytes, 16 bits', sum(16)),
    fact('sum32', 'the sum of all bytes, 32 bits', sum(32)),
    fact('sum-words16', 'the sum of 16-bit words, 16 bits', wordSum(2)),
    fact('sum-words32', 'the sum of 32-bit words, 32 bits', wordSum(4)),
    fact('xor8', 'all bytes XORed', () => xorSum()),
    fact('md5', 'MD5 (RFC 1321), 16 bytes', digestOf('md5')),
    fact('sha1', 'SHA-1 (FIPS 180-4), 20 bytes', digestOf('sha1')),
    fact('sha256', 'SHA-256 (FIPS 180-4), 32 bytes', digestOf('sha256')),
    fact('sha512', 'SHA-512 (FIPS 180-4), 64 bytes', digestOf('sha512')),
  ].map((one) => [one.name, one]),
);

function xxHasher(create: () => { update(bytes: Uint8Array): unknown; digest(): number | bigint }): Hasher {
  // Made at the first byte: formulas are compiled before the library is loaded.
  let state: ReturnType<typeof create> | undefined;
  return {
    update: (bytes) => void (state ??= create()).update(bytes),
    digest: () => {
      if (xxhash === undefined) return 0;
      return short(BigInt((state ??= create()).digest()));
    },
  };
}

/**
 * A new hasher for a name, with a seed behind `@` where it takes one: `murmur3@5`.
 *
 * @throws TypeError for a name nobody knows
 */
export function createHasher(key: string): Hasher {
  const brought = BROUGHT.get(key);
  if (brought !== undefined) return brought();
  const [name, seed] = key.split('@');
  const facts = HASHES.get(name!);
  if (facts === undefined) throw new TypeError(`there is no hash ${name}; known: ${hasherNames().join(', ')}`);
  return facts.create(BigInt(seed ?? 0));
}

/** Hashes that recipes bring themselves, by keys no shipped one has. */
const BROUGHT = new Map<string, () => Hasher>();

/** Makes a hash known under a key of its own, such as `own:…`; the same key again is the same hash. */
export function bringHasher(key: string, create: () => Hasher): void {
  if (!BROUGHT.has(key)) BROUGHT.set(key, create);
}

/** The hash of bytes already in memory. */
export function hashOf(key: string, bytes: Uint8Array): Digest {
  const hasher = createHasher(key);
  hasher.update(bytes);
  return hasher.digest();
}

export function hasherNames(): string[] {
  return [...HASHES.keys()].sort();
}

export function hashFacts(): HashFacts[] {
  return [...HASHES.values()];
}
