/** Numbers that look random and are the same every time: each asset has a generator of its own, seeded by its path. */
export interface Random {
  /** From 0 up to, not including, 1. */
  next(): number;
  /** A whole number from `low` to `high`, both included. */
  whole(low: number, high: number): number;
  pick<T>(items: readonly T[]): T;
}

export function randomFor(seed: string): Random {
  // FNV-1a turns the seed into a state; the steps are those of a 32-bit xorshift with a multiply.
  let state = 0x811c9dc5;
  for (const char of seed) state = Math.imul(state ^ char.codePointAt(0)!, 0x01000193) >>> 0;
  const next = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let value = Math.imul(state ^ (state >>> 15), state | 1);
    value ^= value + Math.imul(value ^ (value >>> 7), value | 61);
    return ((value ^ (value >>> 14)) >>> 0) / 0x100000000;
  };
  return {
    next,
    whole: (low, high) => low + Math.floor(next() * (high - low + 1)),
    pick: (items) => items[Math.floor(next() * items.length)]!,
  };
}
