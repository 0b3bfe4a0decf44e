/** Checksums and hashes by name; each takes its bytes in pieces. */
import { xxh3 } from '@node-rs/xxhash';
import { crc32, crc32c } from '@node-rs/crc32';
import { buf as adler32 } from 'adler-32';
import { crc16ccitt, crc16modbus, crc16xmodem, crc16 } from 'crc';
import createXxhash, { type XXHashAPI } from 'xxhash-wasm';
import type { ParamSpec } from './codec';
import { crc64 } from './crc64';
import { anyCrc } from './crc';
import { fromHasherKey, short, type Digest, type HashFacts, type Hasher, type HashParams } from './hasher';
import { keyedHashes } from './keyed-hashes';
import { byteCount, digestOf, fnv32, fnv64, folded, jenkinsOne, looped, sum, wordSum, xorSum } from './simple-hashes';
import { gathered, wholeHashers } from './whole-hashes';

let xxhash: XXHashAPI | undefined;

/** Loads the hashes that are WebAssembly; done once for each process. */
export async function prepareHashes(): Promise<void> {
  xxhash ??= await createXxhash();
}

function xx(): XXHashAPI {
  if (xxhash === undefined) throw new Error('prepareCodecs() has not been awaited');
  return xxhash;
}

const SEED: readonly ParamSpec[] = [{ name: 'seed', type: 'number', otherwise: 0 }];

const fact = (name: string, about: string, create: (params: HashParams) => Hasher, seeded = false): HashFacts => ({
  name,
  about,
  params: seeded ? SEED : [],
  create,
});

const seedOf = ({ seed = 0 }: HashParams): bigint => BigInt(seed as number | bigint);

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
    ...wholeHashers.map((one) => fact(one.name, one.about, (params) => one.create(seedOf(params)), true)),
    anyCrc,
    fact('xxhash32', 'xxHash, 32 bits', (params) => xxHasher(() => xx().create32(Number(seedOf(params)))), true),
    fact('xxhash64', 'xxHash, 64 bits', (params) => xxHasher(() => xx().create64(seedOf(params))), true),
    fact('xxh3', 'XXH3, 64 bits', (params) => gathered((bytes) => short(xxh3.xxh64(bytes, seedOf(params)))), true),
    fact(
      'xxh3-128',
      'XXH3, 128 bits, 16 bytes from the highest on',
      (params) => gathered((bytes) => bytesOf128(xxh3.xxh128(bytes, seedOf(params)))),
      true,
    ),
    fact('sum8', 'the sum of all bytes, 8 bits', sum(8)),
    fact('sum16', 'the sum of all bytes, 16 bits', sum(16)),
    fact('sum32', 'the sum of all bytes, 32 bits', sum(32)),
    fact('sum-words16', 'the sum of 16-bit words, 16 bits', wordSum(2)),
    fact('sum-words32', 'the sum of 32-bit words, 32 bits', wordSum(4)),
    fact('xor8', 'all bytes XORed', () => xorSum()),
    fact('byte-count', 'how many bytes these are', byteCount),
    fact('md5', 'MD5 (RFC 1321), 16 bytes', digestOf('md5')),
    fact('sha1', 'SHA-1 (FIPS 180-4), 20 bytes', digestOf('sha1')),
    fact('sha256', 'SHA-256 (FIPS 180-4), 32 bytes', digestOf('sha256')),
    fact('sha384', 'SHA-384 (FIPS 180-4), 48 bytes', digestOf('sha384')),
    fact('sha512', 'SHA-512 (FIPS 180-4), 64 bytes', digestOf('sha512')),
    fact('sha3-256', 'SHA3-256 (FIPS 202), 32 bytes', digestOf('sha3-256')),
    fact('sha3-512', 'SHA3-512 (FIPS 202), 64 bytes', digestOf('sha3-512')),
    fact('ripemd160', 'RIPEMD-160, 20 bytes', digestOf('ripemd160')),
    ...keyedHashes,
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

function bytesOf128(value: bigint): Uint8Array {
  return new Uint8Array(Buffer.from(value.toString(16).padStart(32, '0'), 'hex'));
}

/**
 * A new hasher for a key that {@link hasherKey} made, such as `murmur3@seed=5`.
 *
 * @throws TypeError for a name no one knows
 * @throws FormatError `codec-failed` for a parameter that the hash cannot work with
 */
export function createHasher(key: string): Hasher {
  const { name, params } = fromHasherKey(key);
  const create = BROUGHT.get(name) ?? HASHES.get(name)?.create;
  if (create === undefined) throw new TypeError(`there is no hash ${name}; known: ${hasherNames().join(', ')}`);
  return create(params);
}

/** Hashes that recipes bring themselves, by keys no shipped one has. */
const BROUGHT = new Map<string, (params: HashParams) => Hasher>();

/** Makes a hash known under a key of its own, such as `own:…`; the same key again is the same hash. */
export function bringHasher(key: string, create: (params: HashParams) => Hasher): void {
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

/** The facts of a hash that is shipped, or undefined. */
export function findHash(name: string): HashFacts | undefined {
  return HASHES.get(name);
}

export function hashFacts(): HashFacts[] {
  return [...HASHES.values()];
}
