/** What formulas see of one entry that was read. Each fact is worked out when it is asked for: most rows ask for one. */
import type { EntryFacts, Value } from '../formula/value';
import type { EntryTable } from './entry-table';

export class TableEntry implements EntryFacts {
  readonly firstBlock = 0;
  readonly blockCount = 0;

  constructor(
    private readonly table: EntryTable,
    readonly index: number,
    readonly volume: number,
    readonly volumeSet: string,
  ) {}

  get path(): string {
    return this.table.path(this.index);
  }
  get at(): number {
    return this.table.at(this.index);
  }
  get stored(): number {
    return this.table.stored(this.index);
  }
  get size(): number {
    return this.table.size(this.index);
  }
  get method(): Value {
    return this.table.method(this.index);
  }
  get time(): number | undefined {
    return this.table.time(this.index);
  }
  get deleted(): boolean {
    return this.table.isDeleted(this.index);
  }
  get hash(): Value {
    return this.table.hash(this.index);
  }
  get id(): Value {
    return this.table.id(this.index);
  }
  get folderIndex(): number {
    return this.table.folder(this.index);
  }
  content(): undefined {
    return undefined;
  }
}

/** The same facts, some of them others. */
export function factsWith(facts: EntryFacts, others: Partial<EntryFacts>): EntryFacts {
  return Object.create(
    facts,
    Object.fromEntries(Object.entries(others).map(([name, value]) => [name, { value }])),
  ) as EntryFacts;
}
