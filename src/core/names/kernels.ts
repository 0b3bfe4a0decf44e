/** Hashes that can go on from a remembered state, in one or two lanes of 32 bits: for millions of paths a second. */

export interface Kernel {
  /** 1 for hashes of 32 bits, 2 for 64 bits. */
  readonly lanes: 1 | 2;
  /** High and low lane at the start. */
  readonly start: readonly [number, number];
  /** Hashes `bytes` from the state at `from` and leaves the new one at `to`; a state is two numbers, high and low. */
  feed(states: Uint32Array, from: number, to: number, bytes: Uint8Array): void;
  /** The finished hash in place of the state. */
  finish?(states: Uint32Array, at: number): void;
}

function short(start: number, step: (hash: number, byte: number) => number): Kernel {
  return {
    lanes: 1,
    start: [0, start],
    feed: (states, from, to, bytes) => {
      let hash = states[2 * from + 1]! | 0;
      for (let i = 0; i < bytes.length; i++) hash = step(hash, bytes[i]!);
      states[2 * to] = 0;
      states[2 * to + 1] = hash >>> 0;
    },
  };
}

/** FNV for 64 bits, prime 2^40 + 0x1B3, in whole numbers of 32 bits: what is larger would be slow floating point. */
function fnv64(xorFirst: boolean): Kernel {
  return {
    lanes: 2,
    start: [0xcbf29ce4, 0x84222325],
    feed: (states, from, to, bytes) => {
      let high = states[2 * from]! | 0;
      let low = states[2 * from + 1]! | 0;
      for (let i = 0; i < bytes.length; i++) {
        if (xorFirst) low ^= bytes[i]!;
        const lower = Math.imul(low & 0xffff, 0x1b3);
        const upper = (Math.imul(low >>> 16, 0x1b3) + (lower >>> 16)) | 0;
        high = (Math.imul(high, 0x1b3) + (upper >>> 16) + (low << 8)) | 0;
        low = (upper << 16) | (lower & 0xffff);
        if (!xorFirst) low ^= bytes[i]!;
      }
      states[2 * to] = high;
      states[2 * to + 1] = low;
    },
  };
}

const CRC_TABLE = Uint32Array.from({ length: 256 }, (_, byte) => {
  let value = byte;
  for (let bit = 0; bit < 8; bit++) value = value & 1 ? (value >>> 1) ^ 0xedb88320 : value >>> 1;
  return value;
});

const JENKINS = short(0, (hash, byte) => {
  let next = (hash + byte) | 0;
  next = (next + (next << 10)) | 0;
  return next ^ (next >>> 6);
});

const KERNELS: Readonly<Record<string, Kernel>> = {
  'fnv1-32': short(0x811c9dc5, (hash, byte) => Math.imul(hash, 0x01000193) ^ byte),
  'fnv1a-32': short(0x811c9dc5, (hash, byte) => Math.imul(hash ^ byte, 0x01000193)),
  'fnv1-64': fnv64(false),
  'fnv1a-64': fnv64(true),
  djb2: short(5381, (hash, byte) => (Math.imul(hash, 33) + byte) | 0),
  djb2x: short(5381, (hash, byte) => Math.imul(hash, 33) ^ byte),
  sdbm: short(0, (hash, byte) => (Math.imul(hash, 65599) + byte) | 0),
  times31: short(0, (hash, byte) => (Math.imul(hash, 31) + byte) | 0),
  crc32: {
    ...short(0xffffffff, (hash, byte) => (hash >>> 8) ^ CRC_TABLE[(hash ^ byte) & 0xff]!),
    finish: (states, at) => void (states[2 * at + 1] = ~states[2 * at + 1]! >>> 0),
  },
  jenkins: {
    ...JENKINS,
    finish: (states, at) => {
      const hash = states[2 * at + 1]! | 0;
      let end = (hash + (hash << 3)) | 0;
      end ^= end >>> 11;
      states[2 * at + 1] = (end + (end << 15)) >>> 0;
    },
  },
};

/** The kernel of a hash by its name; undefined for seeds and for hashes that have none. */
export function kernelOf(hasher: string): Kernel | undefined {
  return Object.hasOwn(KERNELS, hasher) ? KERNELS[hasher] : undefined;
}
