/** Finds where bytes stood before, for every code of the LZ77 family: chains of places with the same three bytes. */

const HASH_BITS = 15;

export interface Match {
  readonly length: number;
  readonly distance: number;
}

export interface MatchOptions {
  /** The longest match. */
  readonly most: number;
  /** How far back a match may begin. */
  readonly farthest: number;
  /** Places that are looked at before the best so far is taken. */
  readonly effort?: number;
}

const NONE: Match = { length: 0, distance: 0 };

/** Matches of three bytes and more; places have to be asked for or skipped in order. */
export class MatchFinder {
  private readonly heads = new Int32Array(1 << HASH_BITS).fill(-1);
  private readonly before: Int32Array;
  private next = 0;
  constructor(
    private readonly bytes: Uint8Array,
    private readonly options: MatchOptions,
  ) {
    this.before = new Int32Array(bytes.length);
  }

  /** The longest match at a place, the nearest of equal ones. */
  longest(at: number): Match {
    this.skipTo(at);
    const { bytes } = this;
    const { farthest, effort = 128 } = this.options;
    const most = Math.min(this.options.most, bytes.length - at);
    if (most < 3) return NONE;
    let best = NONE;
    let tries = effort;
    for (let from = this.heads[this.hash(at)]!; from >= 0 && at - from <= farthest && tries > 0; tries--) {
      if (bytes[from + best.length] === bytes[at + best.length]) {
        let length = 0;
        while (length < most && bytes[from + length] === bytes[at + length]) length++;
        if (length > best.length) best = { length, distance: at - from };
        if (length === most) break;
      }
      from = this.before[from]!;
    }
    return best.length < 3 ? NONE : best;
  }

  private skipTo(at: number): void {
    for (; this.next < at; this.next++) {
      if (this.next + 2 >= this.bytes.length) continue;
      const hash = this.hash(this.next);
      this.before[this.next] = this.heads[hash]!;
      this.heads[hash] = this.next;
    }
  }
  private hash(at: number): number {
    const { bytes } = this;
    return (
      (Math.imul((bytes[at]! << 16) | (bytes[at + 1]! << 8) | bytes[at + 2]!, 0x9e3779b1) >>> (32 - HASH_BITS)) | 0
    );
  }
}

/** The longest match at every place of the bytes: what a parse that looks ahead needs. */
export function allMatches(bytes: Uint8Array, options: MatchOptions): Match[] {
  const finder = new MatchFinder(bytes, options);
  const matches: Match[] = [];
  for (let at = 0; at < bytes.length; at++) matches.push(finder.longest(at));
  return matches;
}
