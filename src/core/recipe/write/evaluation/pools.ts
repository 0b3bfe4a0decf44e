/** Pools of texts in the making. */
import { FormatError } from '../../../faults';
import type { PoolValue, Value } from '../../formula/value';
import type { FieldKind } from '../../model';

export class Pools {
  private readonly pools = new Map<string, PoolValue>();
  private readonly rebuilt: RebuiltPool[] = [];

  /** @param inRowOrder keys of pools whose texts were found in the order of the rows that point at them, and no others */
  constructor(private readonly inRowOrder: ReadonlySet<string>) {}

  /**
   * The pool of a region or field. Texts that are missing are added at its end; one whose texts lie in the order of their
   * rows is made again in each round, by those who ask for the place of a text.
   */
  of(key: string, kind: FieldKind, found: Uint8Array): PoolValue {
    let pool = this.pools.get(key);
    if (pool !== undefined) return pool;
    if (this.inRowOrder.has(key)) {
      const rebuilt = new RebuiltPool(kind, found);
      this.rebuilt.push(rebuilt);
      pool = rebuilt;
    } else pool = kind.poolOf!(found);
    this.pools.set(key, pool);
    return pool;
  }

  /** Before a round. */
  begin(): void {
    for (const pool of this.rebuilt) pool.begin();
  }
}

/** A pool that is filled again in each round; what is asked of the whole is answered from the round before. */
class RebuiltPool implements PoolValue {
  readonly pool = true;
  private last: PoolValue;
  private filling: PoolValue;

  constructor(
    private readonly kind: FieldKind,
    found: Uint8Array,
  ) {
    this.last = kind.poolOf!(found);
    this.filling = kind.poolOf!(new Uint8Array(0));
  }

  begin(): void {
    // Values are forgotten several times before something is written.
    if (this.filling.count === 0) return;
    this.last = this.filling;
    this.filling = this.kind.poolOf!(new Uint8Array(0));
  }
  get count(): number {
    return this.last.count;
  }
  textAt(offset: number): string {
    // Offsets that were worked out in this round lead into what has been filled so far.
    try {
      return this.filling.textAt(offset);
    } catch (error) {
      if (error instanceof FormatError) return this.last.textAt(offset);
      throw error;
    }
  }
  text(index: number): string {
    return this.last.text(index);
  }
  place(text: string, _: Value): number {
    return this.filling.place(text, undefined);
  }
  indexOf(text: string, _: Value): number {
    return this.filling.indexOf(text, undefined);
  }
  bytes(): Uint8Array {
    return this.filling.bytes();
  }
  watch(): void {}
  wasInOrder(): boolean {
    return true;
  }
}
