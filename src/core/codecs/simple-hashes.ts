/** Hashes of a few lines each: FNV, sums, loops over bytes; and those of the system. */
import { createHash } from 'node:crypto';
import { short, type Hasher, type HashParams } from './hasher';

const asBuffer = (bytes: Uint8Array) => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);

/** A checksum whose library goes on from the value so far. */
export function folded(step: (bytes: Buffer, before: number) => number, start = 0): () => Hasher {
  return () => {
    let value = start;
    return { update: (bytes) => void (value = step(asBuffer(bytes), value)), digest: () => value >>> 0 };
  };
}

/** A hash of the system's OpenSSL. */
export function digestOf(name: string): () => Hasher {
  return () => {
    const hash = createHash(name);
    return { update: (bytes) => void hash.update(bytes), digest: () => new Uint8Array(hash.digest()) };
  };
}

/** FNV (Fowler, Noll, Vo): offset basis and prime for 32 bits. */
export function fnv32(xorFirst: boolean): () => Hasher {
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
export function fnv64(xorFirst: boolean): () => Hasher {
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

/** A 32-bit hash that takes in byte after byte; a seed of 0 represents its own start. */
export function looped(start: number, step: (hash: number, byte: number) => number): (params: HashParams) => Hasher {
  return ({ seed = 0 }) => {
    let hash = Number(seed) === 0 ? start : Number(seed);
    return {
      update: (bytes) => {
        for (let i = 0; i < bytes.length; i++) hash = step(hash, bytes[i]!);
      },
      digest: () => hash >>> 0,
    };
  };
}

/** The sum of all bytes, of 16-bit or of 32-bit words (little-endian), within so many bits. */
export function sum(bits: number): () => Hasher {
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

/** How many bytes there are. */
export function byteCount(): Hasher {
  let total = 0;
  return { update: (bytes) => void (total += bytes.length), digest: () => total };
}

/** XOR of all bytes. */
export function xorSum(): Hasher {
  let value = 0;
  return {
    update: (bytes) => {
      for (let i = 0; i < bytes.length; i++) value ^= bytes[i]!;
    },
    digest: () => value,
  };
}

/** Sums of words of `width` bytes, little-endian; the last word is filled up with zeros. */
export function wordSum(width: 2 | 4): () => Hasher {
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
export function jenkinsOne({ seed = 0 }: HashParams): Hasher {
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
