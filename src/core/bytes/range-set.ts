/** Bytes `[at, at + length)`. */
export interface ByteRange {
  readonly at: number;
  readonly length: number;
}

/**
 * A set of byte offsets kept as sorted, merged ranges; says which bytes of a file are explained. Adding is appending:
 * ranges are sorted once, when they are first asked for.
 */
export class RangeSet {
  private starts: number[] = [];
  private ends: number[] = [];
  private settled = true;

  add(at: number, length: number): void {
    if (length <= 0) return;
    const last = this.ends.length - 1;
    if (last >= 0 && this.settled && at >= this.starts[last]!) {
      if (at <= this.ends[last]!) {
        this.ends[last] = Math.max(this.ends[last]!, at + length);
        return;
      }
    } else if (last >= 0) {
      this.settled = false;
    }
    this.starts.push(at);
    this.ends.push(at + length);
  }

  /** The number of bytes in the set. */
  size(): number {
    this.settle();
    return this.starts.reduce((sum, start, i) => sum + this.ends[i]! - start, 0);
  }

  /** The merged ranges, ascending. */
  ranges(): ByteRange[] {
    this.settle();
    return this.starts.map((at, i) => ({ at, length: this.ends[i]! - at }));
  }

  /** The ranges of `[0, size)` that are not in the set, ascending. */
  missing(size: number): ByteRange[] {
    const holes: ByteRange[] = [];
    let at = 0;
    for (const range of this.ranges()) {
      if (range.at > at) holes.push({ at, length: range.at - at });
      at = Math.max(at, range.at + range.length);
    }
    if (at < size) holes.push({ at, length: size - at });
    return holes;
  }

  private settle(): void {
    if (this.settled) return;
    const order = this.starts.map((_, i) => i).sort((a, b) => this.starts[a]! - this.starts[b]!);
    const starts: number[] = [];
    const ends: number[] = [];
    for (const i of order) {
      const last = ends.length - 1;
      if (last >= 0 && this.starts[i]! <= ends[last]!) ends[last] = Math.max(ends[last]!, this.ends[i]!);
      else {
        starts.push(this.starts[i]!);
        ends.push(this.ends[i]!);
      }
    }
    this.starts = starts;
    this.ends = ends;
    this.settled = true;
  }
}
