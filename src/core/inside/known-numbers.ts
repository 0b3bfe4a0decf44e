/** Numbers that represent entries, such as hashes of paths and long ids, found where they are in the content of others. */

/** Shorter numbers stand everywhere by chance. */
const LEAST = 1n << 32n;
const MASK = (1n << 64n) - 1n;
const BYTES = 8;
/** Games align what they read into memory. */
const STEP = 4;
const HEX = /(?<![0-9a-f])(?:0x)?([0-9a-f]{16})(?![0-9a-f])/gi;

/** Numbers of 64 bits, each of something. */
export class KnownNumbers<Thing> {
  private readonly things = new Map<bigint, Thing>();
  /** One bit for each low half there is: nearly every place in a file is settled by it. */
  private readonly lows = new Uint32Array((1 << 24) / 32);

  get size(): number {
    return this.things.size;
  }

  /** Notes what a number represents; numbers below 2^32, and what is no whole number, are skipped. */
  add(number: unknown, thing: Thing): void {
    if (typeof number !== 'bigint' && !Number.isInteger(number)) return;
    const value = BigInt(number as bigint | number) & MASK;
    if (value < LEAST) return;
    this.things.set(value, thing);
    const bit = bitOf(Number(value & 0xffff_ffffn));
    this.lows[bit >>> 5]! |= 1 << (bit & 31);
  }

  /**
   * What is in some bytes: whole numbers of 64 bits in either byte order at places that divide by four, and 16 hex
   * digits in a text.
   */
  *in(bytes: Uint8Array): Generator<Thing> {
    if (this.things.size === 0) return;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    for (let at = 0; at + BYTES <= bytes.length; at += STEP)
      for (const little of [true, false]) {
        const bit = bitOf(view.getUint32(little ? at : at + 4, little));
        if ((this.lows[bit >>> 5]! & (1 << (bit & 31))) === 0) continue;
        const thing = this.things.get(view.getBigUint64(at, little));
        if (thing !== undefined) yield thing;
      }
    const text = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString('latin1');
    for (const [, digits] of text.matchAll(HEX)) {
      const thing = this.things.get(BigInt(`0x${digits}`));
      if (thing !== undefined) yield thing;
    }
  }
}

const bitOf = (low: number): number => Math.imul(low, 0x9e3779b1) >>> 8;
