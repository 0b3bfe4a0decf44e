/** What a row belongs to: its entry, folder and block, made known to formulas. */
import { scopeOf, type Fields, type Scope } from '../formula/value';
import { tellsBlock, type BlockPlace } from '../read/blocks';
import { entryScope, knownBlocks } from '../read/entry-bytes';
import type { OpenedArchive } from '../read/opened-archive';
import type { Table } from '../read/table';
import { entryFacts } from './entry-content';
import { usesPrevious } from './field-formulas';

const NO_ROWS: Scope['rows'] = [];

export class RowContext {
  /** What formulas are evaluated in. */
  readonly scope: Scope;
  /** The wrap of the entry whose rows are being compared. */
  own: Fields | undefined;
  private readonly besideEntry: readonly (ReadonlyMap<number, number> | undefined)[];
  private readonly looksBack: boolean;
  private blockOwner: { entry: Int32Array; index: Int32Array } | undefined;
  private lastBlocks: { entry: number; blocks: readonly BlockPlace[] } | undefined;

  constructor(private readonly archive: OpenedArchive) {
    this.scope = scopeOf(archive.facts);
    this.looksBack = usesPrevious(archive);
    const { entries } = archive;
    this.besideEntry = entries.beside.map((_, k) => {
      const map = new Map<number, number>();
      for (let i = 0; i < entries.count; i++) map.set(entries.besideRow(k, i), i);
      return map;
    });
  }

  of(table: Table, row: number, outerEntry: number, outerFolder: number) {
    const { archive } = this;
    const { entries, folders, blockRows } = archive;
    let entry = outerEntry;
    let isEntryRow = true;
    if (table === entries.rows) {
      const own = entries.entryOfRow(row);
      if (own >= 0) entry = own;
      else isEntryRow = outerEntry >= 0;
    }
    const beside = entries.beside.indexOf(table);
    if (beside >= 0) {
      entry = this.besideEntry[beside]!.get(row) ?? -1;
      // Of rows that name their entry, some name none.
      if (archive.recipe.entries.beside[beside]!.by !== undefined) isEntryRow = entry >= 0;
    }
    let folder = outerFolder;
    if (folders !== undefined && folders.table === table) folder = folders.indexOf(row);
    let block: BlockPlace | undefined;
    if (blockRows !== undefined && blockRows.table === table) {
      const owner = this.ownerOfBlock(row);
      if (owner !== undefined) {
        ({ entry } = owner);
        block = this.blocks(owner.entry)[owner.index];
      }
    } else if (
      archive.recipe.entries.blocks !== undefined &&
      table !== entries.rows &&
      entry >= 0 &&
      tellsBlock(table.shape)
    )
      block = this.blocks(entry)[this.scope.index];
    return { entry, folder, block, isEntryRow };
  }

  private ownerOfBlock(row: number): { entry: number; index: number } | undefined {
    const { entries, blockRows } = this.archive;
    if (this.blockOwner === undefined) {
      const entry = new Int32Array(blockRows!.table.length).fill(-1);
      const index = new Int32Array(blockRows!.table.length);
      for (let i = 0; i < entries.count; i++) {
        for (const [b, { number }] of this.blocks(i).entries()) {
          const at = number < blockRows!.count ? blockRows!.row(number) : -1;
          // A block that several entries share is asked for as that of the first.
          if (at < 0 || entry[at]! >= 0) continue;
          entry[at] = i;
          index[at] = b;
        }
      }
      this.blockOwner = { entry, index };
    }
    const owner = this.blockOwner.entry[row]!;
    return owner < 0 ? undefined : { entry: owner, index: this.blockOwner.index[row]! };
  }

  blocks(entry: number): readonly BlockPlace[] {
    if (this.lastBlocks?.entry === entry) return this.lastBlocks.blocks;
    const blocks = knownBlocks(this.archive, entry);
    this.lastBlocks = { entry, blocks };
    return blocks;
  }

  /** Makes the entry and folder of an instance known to formulas. */
  enter(entry: number, folder: number): void {
    const { scope, archive } = this;
    scope.own = this.own;
    if (entry >= 0) {
      const known = entryScope(archive, entry, entryFacts(archive, entry));
      scope.entry = known.entry;
      scope.rows = known.rows;
      scope.previous = entry > 0 && this.looksBack ? entryFacts(archive, entry - 1) : undefined;
      scope.folder = known.folder;
    } else {
      scope.entry = undefined;
      scope.rows = NO_ROWS;
    }
    if (folder >= 0 && archive.folders !== undefined) scope.folder = archive.folders.facts(folder);
  }

  /** Blocks of an entry that its wrap says. */
  rememberBlocks(entry: number, blocks: readonly BlockPlace[]): void {
    this.lastBlocks = { entry, blocks };
  }
}
