/** The order in which the rows of entries will be read, which may be another than that in which they are numbered here. */
export class EntryOrder {
  private outs: Int32Array | undefined;
  private positions: Int32Array | undefined;
  /** Counts how often the order has become another. */
  version = 0;

  constructor(
    readonly count: number,
    /** Position of the first entry, in a draft of one. */
    private readonly first = 0,
  ) {}

  /**
   * Sets the order.
   *
   * @returns whether it is another than before
   */
  set(outs: Int32Array): boolean {
    const before = this.outs;
    const same = before === undefined ? outs.every((out, i) => out === i) : outs.every((out, i) => out === before[i]);
    if (same) return false;
    this.outs = outs;
    this.version++;
    this.positions = new Int32Array(this.count).fill(-1);
    for (let i = 0; i < outs.length; i++) this.positions[outs[i]!] = i;
    return true;
  }

  /** The entry at a position. */
  at(position: number): number {
    return this.outs === undefined ? position : this.outs[position]!;
  }

  /** Position of an entry among all, counted as a reader counts. */
  positionOf(out: number): number {
    return this.first + (this.positions === undefined ? out : this.positions[out]!);
  }

  /** The entry before another; undefined for the first. */
  before(out: number): number | undefined {
    const position = this.positionOf(out) - this.first;
    return position > 0 ? this.at(position - 1) : undefined;
  }
}
