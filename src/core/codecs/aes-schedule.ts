/**
 * AES (FIPS 197) one block at a time, with keys expanded in place: for trying millions of keys a second, where a call of
 * the system's library for each costs more than the cipher itself. Everything else goes through `aes.ts`.
 */

const SBOX = new Uint8Array(256);
const INVERSE = new Uint8Array(256);
/** InvMixColumns of one byte of a column, by its row. */
const UNMIX = [0, 1, 2, 3].map(() => new Int32Array(256));
/** SubBytes and MixColumns of one byte of a column, by its row. */
const MIX = [0, 1, 2, 3].map(() => new Int32Array(256));

function times(a: number, b: number): number {
  let product = 0;
  for (let [x, y] = [a, b]; y > 0; y >>= 1) {
    if (y & 1) product ^= x;
    x = (x << 1) ^ (x & 0x80 ? 0x11b : 0);
  }
  return product;
}

function makeTables(): void {
  const inverseOf = (byte: number) => {
    if (byte === 0) return 0;
    for (let other = 1; ; other++) if (times(byte, other) === 1) return other;
  };
  const word = (a: number, b: number, c: number, d: number) => (a << 24) | (b << 16) | (c << 8) | d;
  for (let byte = 0; byte < 256; byte++) {
    const x = inverseOf(byte);
    const turned = (by: number) => ((x << by) | (x >> (8 - by))) & 0xff;
    const s = x ^ turned(1) ^ turned(2) ^ turned(3) ^ turned(4) ^ 0x63;
    SBOX[byte] = s;
    INVERSE[s] = byte;
  }
  for (let byte = 0; byte < 256; byte++) {
    const s = SBOX[byte]!;
    const mixed = [times(s, 2), s, s, times(s, 3)];
    const unmixed = [times(byte, 14), times(byte, 9), times(byte, 13), times(byte, 11)];
    for (let row = 0; row < 4; row++) {
      const at = (list: number[], i: number) => list[(i - row + 4) % 4]!;
      MIX[row]![byte] = word(at(mixed, 0), at(mixed, 1), at(mixed, 2), at(mixed, 3));
      UNMIX[row]![byte] = word(at(unmixed, 0), at(unmixed, 1), at(unmixed, 2), at(unmixed, 3));
    }
  }
}
makeTables();
const [M0, M1, M2, M3] = MIX as [Int32Array, Int32Array, Int32Array, Int32Array];
const [U0, U1, U2, U3] = UNMIX as [Int32Array, Int32Array, Int32Array, Int32Array];

function subWord(word: number): number {
  return (
    (SBOX[word >>> 24]! << 24) |
    (SBOX[(word >>> 16) & 0xff]! << 16) |
    (SBOX[(word >>> 8) & 0xff]! << 8) |
    SBOX[word & 0xff]!
  );
}

/** SubBytes of one byte of each word: the last round, which mixes no columns. */
function substituted(w: number, x: number, y: number, z: number): number {
  return (SBOX[w >>> 24]! << 24) | (SBOX[(x >>> 16) & 0xff]! << 16) | (SBOX[(y >>> 8) & 0xff]! << 8) | SBOX[z & 0xff]!;
}

/** Machine for keys of one length: expands a key, then turns single blocks. */
export class AesBlocks {
  private readonly words: number;
  private readonly rounds: number;
  private readonly schedule: Int32Array;
  /** The block of the last call, as four big-endian words. */
  readonly block = new Int32Array(4);

  /** @param keyBytes 16, 24 or 32 */
  constructor(keyBytes: number) {
    this.words = keyBytes / 4;
    this.rounds = this.words + 6;
    this.schedule = new Int32Array(4 * (this.rounds + 1));
  }

  /** Takes the key that is at an offset. */
  expand(bytes: Uint8Array, at = 0): void {
    const { schedule, words } = this;
    for (let i = 0; i < words; i++) {
      const from = at + 4 * i;
      schedule[i] = (bytes[from]! << 24) | (bytes[from + 1]! << 16) | (bytes[from + 2]! << 8) | bytes[from + 3]!;
    }
    let round = 1;
    let word = schedule[words - 1]!;
    const count = schedule.length;
    for (let i = words; i < count; i += words) {
      word = schedule[i - words]! ^ subWord((word << 8) | (word >>> 24)) ^ (round << 24);
      schedule[i] = word;
      round = (round << 1) ^ (round & 0x80 ? 0x11b : 0);
      const end = Math.min(i + words, count);
      for (let k = i + 1; k < end; k++) {
        if (words > 6 && k === i + 4) word = subWord(word);
        word ^= schedule[k - words]!;
        schedule[k] = word;
      }
    }
  }

  /** Decrypts four words into {@link block}. */
  decrypt(a: number, b: number, c: number, d: number): void {
    const { schedule, rounds, block } = this;
    let at = 4 * rounds;
    let s0 = a ^ schedule[at]!;
    let s1 = b ^ schedule[at + 1]!;
    let s2 = c ^ schedule[at + 2]!;
    let s3 = d ^ schedule[at + 3]!;
    for (let round = rounds - 1; ; round--) {
      at -= 4;
      // InvShiftRows and InvSubBytes, then the round's key.
      const t0 =
        ((INVERSE[s0 >>> 24]! << 24) |
          (INVERSE[(s3 >>> 16) & 0xff]! << 16) |
          (INVERSE[(s2 >>> 8) & 0xff]! << 8) |
          INVERSE[s1 & 0xff]!) ^
        schedule[at]!;
      const t1 =
        ((INVERSE[s1 >>> 24]! << 24) |
          (INVERSE[(s0 >>> 16) & 0xff]! << 16) |
          (INVERSE[(s3 >>> 8) & 0xff]! << 8) |
          INVERSE[s2 & 0xff]!) ^
        schedule[at + 1]!;
      const t2 =
        ((INVERSE[s2 >>> 24]! << 24) |
          (INVERSE[(s1 >>> 16) & 0xff]! << 16) |
          (INVERSE[(s0 >>> 8) & 0xff]! << 8) |
          INVERSE[s3 & 0xff]!) ^
        schedule[at + 2]!;
      const t3 =
        ((INVERSE[s3 >>> 24]! << 24) |
          (INVERSE[(s2 >>> 16) & 0xff]! << 16) |
          (INVERSE[(s1 >>> 8) & 0xff]! << 8) |
          INVERSE[s0 & 0xff]!) ^
        schedule[at + 3]!;
      if (round === 0) {
        block[0] = t0;
        block[1] = t1;
        block[2] = t2;
        block[3] = t3;
        return;
      }
      s0 = U0[t0 >>> 24]! ^ U1[(t0 >>> 16) & 0xff]! ^ U2[(t0 >>> 8) & 0xff]! ^ U3[t0 & 0xff]!;
      s1 = U0[t1 >>> 24]! ^ U1[(t1 >>> 16) & 0xff]! ^ U2[(t1 >>> 8) & 0xff]! ^ U3[t1 & 0xff]!;
      s2 = U0[t2 >>> 24]! ^ U1[(t2 >>> 16) & 0xff]! ^ U2[(t2 >>> 8) & 0xff]! ^ U3[t2 & 0xff]!;
      s3 = U0[t3 >>> 24]! ^ U1[(t3 >>> 16) & 0xff]! ^ U2[(t3 >>> 8) & 0xff]! ^ U3[t3 & 0xff]!;
    }
  }

  /** Encrypts four words into {@link block}. */
  encrypt(a: number, b: number, c: number, d: number): void {
    const { schedule, rounds, block } = this;
    let s0 = a ^ schedule[0]!;
    let s1 = b ^ schedule[1]!;
    let s2 = c ^ schedule[2]!;
    let s3 = d ^ schedule[3]!;
    let at = 4;
    for (let round = 1; round < rounds; round++, at += 4) {
      const t0 = M0[s0 >>> 24]! ^ M1[(s1 >>> 16) & 0xff]! ^ M2[(s2 >>> 8) & 0xff]! ^ M3[s3 & 0xff]! ^ schedule[at]!;
      const t1 = M0[s1 >>> 24]! ^ M1[(s2 >>> 16) & 0xff]! ^ M2[(s3 >>> 8) & 0xff]! ^ M3[s0 & 0xff]! ^ schedule[at + 1]!;
      const t2 = M0[s2 >>> 24]! ^ M1[(s3 >>> 16) & 0xff]! ^ M2[(s0 >>> 8) & 0xff]! ^ M3[s1 & 0xff]! ^ schedule[at + 2]!;
      const t3 = M0[s3 >>> 24]! ^ M1[(s0 >>> 16) & 0xff]! ^ M2[(s1 >>> 8) & 0xff]! ^ M3[s2 & 0xff]! ^ schedule[at + 3]!;
      s0 = t0;
      s1 = t1;
      s2 = t2;
      s3 = t3;
    }
    block[0] = substituted(s0, s1, s2, s3) ^ schedule[at]!;
    block[1] = substituted(s1, s2, s3, s0) ^ schedule[at + 1]!;
    block[2] = substituted(s2, s3, s0, s1) ^ schedule[at + 2]!;
    block[3] = substituted(s3, s0, s1, s2) ^ schedule[at + 3]!;
  }
}

function wordAt(bytes: Uint8Array, at: number, swapped: boolean): number {
  return swapped
    ? (bytes[at + 3]! << 24) | (bytes[at + 2]! << 16) | (bytes[at + 1]! << 8) | bytes[at]!
    : (bytes[at]! << 24) | (bytes[at + 1]! << 16) | (bytes[at + 2]! << 8) | bytes[at + 3]!;
}

/**
 * True when an expanded key of `keyBytes` bytes is at an offset: each word follows from those before it as FIPS 197
 * says. Programs that keep a key ready have it so in memory and in dumps of it.
 *
 * @param swapped the words are kept little-endian
 */
export function isExpandedKey(bytes: Uint8Array, at: number, keyBytes: number, swapped: boolean): boolean {
  const words = keyBytes / 4;
  const count = 4 * (words + 7);
  if (at + 4 * count > bytes.length) return false;
  // One byte of the first word that follows: nearly everything is refused by it.
  const top = swapped ? 3 : 0;
  const turned = SBOX[bytes[at + keyBytes - 4 + (swapped ? 2 : 1)]!]!;
  if (bytes[at + keyBytes + top] !== (bytes[at + top]! ^ turned ^ 1)) return false;
  let round = 1;
  for (let i = words; i < count; i++) {
    let next = wordAt(bytes, at + 4 * (i - 1), swapped);
    if (i % words === 0) {
      next = subWord((next << 8) | (next >>> 24)) ^ (round << 24);
      round = (round << 1) ^ (round & 0x80 ? 0x11b : 0);
    } else if (words > 6 && i % words === 4) next = subWord(next);
    if ((wordAt(bytes, at + 4 * (i - words), swapped) ^ next) !== wordAt(bytes, at + 4 * i, swapped)) return false;
  }
  return true;
}
