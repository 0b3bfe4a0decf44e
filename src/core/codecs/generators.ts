/** Generators of numbers whose bits make keystreams. States of up to 64 bits are two halves of 32: bigints are slow. */

/** A state, moved on by {@link KeyGenerator.step}. */
export interface KeyGenerator {
  /** The lower and the higher 32 bits. */
  low: number;
  high: number;
  step(): void;
}

const halves = (value: bigint) => ({
  low: Number(BigInt.asUintN(32, value)),
  high: Number(BigInt.asUintN(32, value >> 32n)),
});

/** The state becomes state × multiply + add, in so many bits (1 to 64). */
export function linearCongruential(seed: bigint, multiply: bigint, add: bigint, bits: number): KeyGenerator {
  const by = halves(BigInt.asUintN(64, multiply));
  const plus = halves(BigInt.asUintN(64, add));
  const mask = halves((1n << BigInt(bits)) - 1n);
  const byLow = by.low & 0xffff;
  const byHigh = by.low >>> 16;
  return {
    ...halves(BigInt.asUintN(bits, seed)),
    step() {
      const { low, high } = this;
      // The product of the lower halves in 16-bit parts, which no double rounds.
      const first = low & 0xffff;
      const second = low >>> 16;
      const inner = first * byHigh;
      const outer = second * byLow;
      const least = first * byLow;
      const middle = (least >>> 16) + (inner & 0xffff) + (outer & 0xffff);
      const product = ((middle << 16) | (least & 0xffff)) >>> 0;
      const carried = second * byHigh + (inner >>> 16) + (outer >>> 16) + (middle >>> 16);
      const sum = product + plus.low;
      const upper = (carried | 0) + Math.imul(high, by.low) + Math.imul(low, by.high) + plus.high;
      this.low = (sum & mask.low) >>> 0;
      this.high = ((upper + (sum > 0xffffffff ? 1 : 0)) & mask.high) >>> 0;
    },
  };
}

/** A keystream of a linear congruential generator of 32 bits whose used bits lie within them: by far the most common. */
export function smallKeystream(
  seed: number,
  multiply: number,
  add: number,
  { shift, width, isFirst }: { readonly shift: number; readonly width: number; readonly isFirst: boolean },
): (bytes: Uint8Array) => void {
  let state = seed | 0;
  let at = width;
  let before = isFirst;
  return (bytes) => {
    for (let i = 0; i < bytes.length; i++) {
      if (at === width) {
        if (before) before = false;
        else state = (Math.imul(state, multiply) + add) | 0;
        at = 0;
      }
      bytes[i]! ^= state >>> (shift + 8 * at++);
    }
  };
}

/** Marsaglia's xorshift (2003) on 32 (13, 17, 5) or 64 bits (13, 7, 17). */
export function xorshift(seed: bigint, bits: 32 | 64): KeyGenerator {
  const state = halves(BigInt.asUintN(bits, seed));
  if (bits === 32)
    return {
      ...state,
      step() {
        let { low } = this;
        low ^= low << 13;
        low ^= low >>> 17;
        low ^= low << 5;
        this.low = low >>> 0;
      },
    };
  return {
    ...state,
    step() {
      let { low, high } = this;
      high ^= (high << 13) | (low >>> 19);
      low ^= low << 13;
      low ^= (low >>> 7) | (high << 25);
      high ^= high >>> 7;
      high ^= (high << 17) | (low >>> 15);
      low ^= low << 17;
      this.low = low >>> 0;
      this.high = high >>> 0;
    },
  };
}

/**
 * XORs bytes with those of a generator, little-endian: from bit `shift` on, `width` bytes a step.
 *
 * @param isFirst the state itself is used before the first step
 */
export function keystream(
  generator: KeyGenerator,
  shift: number,
  width: number,
  isFirst = false,
): (bytes: Uint8Array) => void {
  let at = width;
  let before = isFirst;
  return (bytes) => {
    for (let i = 0; i < bytes.length; i++) {
      if (at === width) {
        if (before) before = false;
        else generator.step();
        at = 0;
      }
      bytes[i]! ^= bitsFrom(generator, shift + 8 * at++);
    }
  };
}

/** The bits from a place on, of which the lowest eight count. */
function bitsFrom({ low, high }: KeyGenerator, place: number): number {
  if (place >= 64) return 0;
  if (place >= 32) return high >>> (place - 32);
  return place === 0 ? low : (low >>> place) | (high << (32 - place));
}
