/** What becomes of each row that was found, and what new rows each added entry needs. */
import { FormatError } from '../../../faults';
import type { Shape } from '../../model';
import type { OpenedArchive } from '../../read/opened-archive';
import type { Table } from '../../read/table';
import type { Draft } from '../model/draft';
import type { FoundRow } from '../model/identity';
import { companionsOf, companionsToFollow, hasCompanions, orphanedRows, type CompanionRow } from './companions';
import type { FreshItem } from './list-items';

export interface NewCompanions {
  readonly before: readonly FreshItem[];
  readonly behind: readonly FreshItem[];
}

export const NO_COMPANIONS: NewCompanions = { before: [], behind: [] };

export class RowRoles {
  /** Added entries, in the order in which they were given. */
  readonly added: readonly number[];
  private readonly orphaned: ReadonlySet<number>;
  private model: readonly CompanionRow[] | undefined;

  constructor(
    private readonly draft: Draft,
    /** True when the new row of an entry says its path by itself. */
    private readonly tellsItself: (out: number) => boolean,
  ) {
    const { entries, setting } = draft;
    const added: number[] = [];
    for (let out = 0; out < entries.count; out++) if (entries.base(out) === undefined) added.push(out);
    this.added = added;
    const { archive } = setting;
    this.orphaned =
      archive === undefined || entries.removes !== true
        ? new Set<number>()
        : orphanedRows(archive, (entry) => draft.outOf(entry) < 0);
  }

  /** True when anything comes or goes. */
  get changesRows(): boolean {
    return this.added.length > 0 || this.draft.entries.removes === true;
  }

  /** True for the row of a removed entry, and for what only that one needed. */
  isGone(table: Table, row: number): boolean {
    const { archive } = this.draft.setting;
    if (archive === undefined || table !== archive.entries.rows) return false;
    return this.draft.outOfRow(table, row) === -1 || this.orphaned.has(row);
  }

  /** The entry of a row that was found, or -1. */
  entryOf(table: Table, row: number): number {
    return Math.max(-1, this.draft.outOfRow(table, row));
  }

  /**
   * The found row that a new entry's comes behind, where the rows of other entries tell its folder: the last in it.
   *
   * @returns undefined where a new row may be anywhere, or has rows around it that belong to it
   */
  rowBefore(out: number): number | undefined {
    const { archive, recipe } = this.draft.setting;
    if (archive === undefined || !hasCompanions(recipe) || this.hasModel() || this.tellsItself(out)) return undefined;
    const path = this.draft.path(out);
    const slash = path.lastIndexOf('/');
    return slash < 0 ? undefined : (this.lastRows ??= this.lastRowsOfFolders(archive)).get(path.slice(0, slash));
  }
  private lastRows: ReadonlyMap<string, number> | undefined;

  /** Of each folder the row of the last entry in it, or of the entry that is called like it. */
  private lastRowsOfFolders({ entries }: OpenedArchive): ReadonlyMap<string, number> {
    const rows = new Map<string, number>();
    for (let entry = 0; entry < entries.count; entry++) {
      const path = entries.path(entry);
      rows.set(path, entries.row(entry));
      const slash = path.lastIndexOf('/');
      if (slash >= 0) rows.set(path.slice(0, slash), entries.row(entry));
    }
    return rows;
  }

  private hasModel(): boolean {
    const { archive } = this.draft.setting;
    return (this.someCompanions ??= Array.from({ length: archive?.entries.count ?? 0 }, (_, i) => i).some(
      (entry) => companionsOf(archive!, entry).length > 0,
    ));
  }
  private someCompanions: boolean | undefined;

  /** True when the entry that an added one lies below is added too, in front of it. */
  private followsAdded(out: number): boolean {
    const path = this.draft.path(out);
    const folder = path.slice(0, Math.max(0, path.lastIndexOf('/')));
    this.addedAt ??= new Map(this.added.map((one) => [this.draft.path(one), one]));
    return folder !== '' && (this.addedAt.get(folder) ?? out) < out;
  }
  private addedAt: ReadonlyMap<string, number> | undefined;

  /** The rows that must be around that of an added entry. @throws FormatError `cannot-add` */
  companionsFor(out: number): NewCompanions {
    const { setting } = this.draft;
    if (!hasCompanions(setting.recipe) || this.tellsItself(out) || this.followsAdded(out)) return NO_COMPANIONS;
    this.model ??= companionsToFollow(setting.archive, setting.recipe);
    const item = ({ table, row }: FoundRow, i: number): FreshItem => ({
      key: `companion${i}:${out}`,
      out,
      template: { table, row },
    });
    const before = this.model.filter(({ step }) => step < 0).map(item);
    const behind = this.model.filter(({ step }) => step > 0).map((row, i) => item(row, i + before.length));
    return { before, behind };
  }
}

/** The fault of an entry whose row finds no place. */
export function noList(draft: Draft, shape: Shape, out: number, hint: string): FormatError {
  const { recipe } = draft.setting;
  return new FormatError({
    code: 'cannot-add',
    recipe: recipe.id,
    line: recipe.entries.line,
    entry: draft.path(out),
    what: `no list takes a new ${shape.name}`,
    hint,
  });
}
