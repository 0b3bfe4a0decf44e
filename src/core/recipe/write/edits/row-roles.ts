/** What becomes of each row that was found, and what new rows each added entry needs. */
import { FormatError } from '../../../faults';
import type { Shape } from '../../model';
import type { Table } from '../../read/table';
import type { Draft } from '../model/draft';
import type { FoundRow } from '../model/identity';
import { companionsToFollow, hasCompanions, orphanedRows, type CompanionRow } from './companions';
import type { FreshItem } from './list-items';

export interface NewCompanions {
  readonly before: readonly FreshItem[];
  readonly behind: readonly FreshItem[];
}

const NO_COMPANIONS: NewCompanions = { before: [], behind: [] };

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

  /** The rows that must be around that of an added entry. @throws FormatError `cannot-add` */
  companionsFor(out: number): NewCompanions {
    const { setting } = this.draft;
    if (!hasCompanions(setting.recipe) || this.tellsItself(out)) return NO_COMPANIONS;
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
