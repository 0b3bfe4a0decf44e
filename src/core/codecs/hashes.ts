/** Checksums and hashes by name; each takes its bytes in pieces. */
import { crc32, crc32c } from '@node-rs/crc32';
import { createHash } from 'node:crypto';

export interface Hasher {
  update(bytes: Uint8Array): void;
  /** A number for checksums of up to 32 bits, bytes for cryptographic hashes. */
  digest(): number | Uint8Array;
}

const HASHERS: Readonly<Record<string, () => Hasher>> = {
  /** CRC-32 of ISO-HDLC, polynomial 0x04C11DB7 reflected; check value CBF43926. */
  crc32: () => crc(crc32),
  /** CRC-32C (Castagnoli), RFC 3720; check value E3069283. */
  crc32c: () => crc(crc32c),
  md5: () => digest('md5'),
  sha1: () => digest('sha1'),
  sha256: () => digest('sha256'),
};

/** A new hasher; undefined for a name nobody knows. */
export function createHasher(name: string): Hasher | undefined {
  return Object.hasOwn(HASHERS, name) ? HASHERS[name]!() : undefined;
}

/** The hash of bytes already in memory. */
export function hashOf(name: string, bytes: Uint8Array): number | Uint8Array {
  const hasher = createHasher(name);
  if (hasher === undefined) throw new TypeError(`there is no hash ${name}; known: ${hasherNames().join(', ')}`);
  hasher.update(bytes);
  return hasher.digest();
}

export function hasherNames(): string[] {
  return Object.keys(HASHERS).sort();
}

function crc(step: (bytes: Buffer, before?: number) => number): Hasher {
  let value = 0;
  return {
    update: (bytes) => void (value = step(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength), value)),
    digest: () => value,
  };
}

function digest(name: string): Hasher {
  const hash = createHash(name);
  return { update: (bytes) => void hash.update(bytes), digest: () => new Uint8Array(hash.digest()) };
}
