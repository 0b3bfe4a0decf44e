/** Numbers at random that are the same for the same seed on every machine (xorshift128+, Vigna 2014, in 32-bit halves). */
export class Dice {
  private state: [number, number, number, number];

  constructor(seed: number) {
    // SplitMix-like mixing: seeds that follow one another must not give alike throws.
    const mix = (value: number) => {
      let mixed = (value + 0x9e3779b9) | 0;
      mixed = Math.imul(mixed ^ (mixed >>> 16), 0x85ebca6b);
      mixed = Math.imul(mixed ^ (mixed >>> 13), 0xc2b2ae35);
      return (mixed ^ (mixed >>> 16)) >>> 0;
    };
    this.state = [mix(seed), mix(seed + 1), mix(seed ^ 0x5bd1e995), mix(seed + 77) | 1];
    for (let i = 0; i < 8; i++) this.bits();
  }

  /** 32 bits. */
  bits(): number {
    const [a, b, c, d] = this.state;
    let t = d ^ (d << 11);
    t ^= t >>> 8;
    const next = (t ^ a ^ (a >>> 19)) >>> 0;
    this.state = [next, a, b, c];
    return next;
  }

  /** A whole number from 0 to `most`, inclusive. */
  upTo(most: number): number {
    return Math.floor((this.bits() / 2 ** 32) * (most + 1));
  }

  chance(share: number): boolean {
    return this.bits() / 2 ** 32 < share;
  }

  pick<T>(items: readonly T[]): T {
    return items[this.upTo(items.length - 1)]!;
  }

  bytes(length: number): Uint8Array {
    const bytes = new Uint8Array(length);
    for (let i = 0; i < length; i++) bytes[i] = this.bits() & 255;
    return bytes;
  }
}
