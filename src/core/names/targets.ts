/** The hashes that want a name, as a set that says no quickly. */
import type { Value } from '../recipe';

/** The largest filter, in bits; one bit in eight or fewer is set, so that most misses end there. */
const MAX_FILTER_BITS = 27;

export class HashTargets {
  private readonly filter: Uint8Array;
  private readonly mask: number;
  private readonly shorts = new Set<number>();
  private readonly longs = new Set<string>();
  readonly size: number;

  /** @param hashes as entries have them: numbers to 32 bits, bigints or numbers to 64, or bytes */
  constructor(hashes: Iterable<Value>) {
    for (const hash of hashes) {
      this.longs.add(keyOf(hash));
      if (typeof hash === 'number' && hash <= 0xffffffff) this.shorts.add(hash);
    }
    this.size = this.longs.size;
    const bits = Math.min(MAX_FILTER_BITS, Math.max(10, Math.ceil(Math.log2(this.size * 8 + 1))));
    this.mask = 2 ** bits - 1;
    this.filter = new Uint8Array(2 ** bits / 8);
    for (const key of this.longs) {
      if (!key.startsWith('n')) continue;
      const low = Number(BigInt.asUintN(32, BigInt(key.slice(1)))) & this.mask;
      this.filter[low >>> 3]! |= 1 << (low & 7);
    }
  }

  /** False only when no target has this low half. */
  mayHave(low: number): boolean {
    const bit = low & this.mask;
    return (this.filter[bit >>> 3]! & (1 << (bit & 7))) !== 0;
  }

  has32(hash: number): boolean {
    return this.shorts.has(hash);
  }

  has64(high: number, low: number): boolean {
    return this.longs.has(high === 0 ? `n${low}` : `n${(BigInt(high) << 32n) | BigInt(low)}`);
  }

  has(hash: Value): boolean {
    return this.longs.has(keyOf(hash));
  }
}

export function keyOf(hash: Value): string {
  return hash instanceof Uint8Array ? `b${Buffer.from(hash).toString('hex')}` : `n${String(hash)}`;
}
