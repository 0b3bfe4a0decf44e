/** What formulas see of one entry that was read. Each fact is worked out when it is asked for: most rows ask for one. */
import type { EntryFacts, Value } from '../formula/value';
import type { ContentPart } from '../model';
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

/** What is computed from an entry's bytes or blocks, and not stored in its row. */
type LateFacts = Pick<EntryFacts, 'hash' | 'firstBlock' | 'blockCount' | 'content'>;

/** The same facts, some of them others. */
export function factsWith(facts: EntryFacts, others: Partial<LateFacts>): EntryFacts {
  return new ChangedFacts(facts, others);
}

/** Looks through to the facts beneath: most formulas ask for one fact, and a copy would work out all. */
class ChangedFacts implements EntryFacts {
  constructor(
    private readonly facts: EntryFacts,
    private readonly others: Partial<LateFacts>,
  ) {}

  get index(): number {
    return this.facts.index;
  }
  get volume(): number {
    return this.facts.volume;
  }
  get volumeSet(): string {
    return this.facts.volumeSet;
  }
  get path(): string {
    return this.facts.path;
  }
  get at(): number {
    return this.facts.at;
  }
  get stored(): number {
    return this.facts.stored;
  }
  get size(): number {
    return this.facts.size;
  }
  get method(): Value {
    return this.facts.method;
  }
  get time(): number | undefined {
    return this.facts.time;
  }
  get deleted(): boolean {
    return this.facts.deleted;
  }
  get hash(): Value {
    return this.others.hash ?? this.facts.hash;
  }
  get id(): Value {
    return this.facts.id;
  }
  get folderIndex(): number {
    return this.facts.folderIndex;
  }
  get firstBlock(): number {
    return this.others.firstBlock ?? this.facts.firstBlock;
  }
  get blockCount(): number {
    return this.others.blockCount ?? this.facts.blockCount;
  }
  content(which: ContentPart, hasher: string): Value {
    return (this.others.content ?? this.facts.content.bind(this.facts))(which, hasher);
  }
}
