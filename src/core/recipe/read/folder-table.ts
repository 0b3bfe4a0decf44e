/** Folders of an archive: rows of a table with parents by number, or nested instances of a shape. */
import { FormatError } from '../../faults';
import { isNumeric, scopeOf, type FileFacts, type FolderFacts, type Value } from '../formula/value';
import { showValue } from '../formula/show-value';
import type { FoldersRule, Recipe } from '../model';
import type { FoundRegion } from './read-region';
import { boundRows } from './rows';
import type { Table } from './table';

export interface FolderTable {
  readonly count: number;
  readonly table: Table;
  row(index: number): number;
  /** The index of the folder a row of the table describes, or -1. */
  indexOf(row: number): number;
  path(index: number): string;
  parent(index: number): number;
  facts(index: number): FolderFacts;
  /** Entries directly in it; set once the entries are known. */
  readonly counts: Float64Array;
  readonly firsts: Float64Array;
}

/** How many folders may lie in one another. */
const MAX_LEVELS = 1_000;

export function readFolders(
  recipe: Recipe,
  rule: FoldersRule,
  regions: ReadonlyMap<number, FoundRegion>,
  facts: FileFacts,
): FolderTable | undefined {
  const bound = boundRows(recipe, regions, rule.each, rule.each.shape);
  if (bound === undefined) return undefined;
  const { table, count } = bound;
  const byRow = new Map<number, number>();
  for (let i = 0; i < count; i++) byRow.set(bound.row(i), i);
  const parents = new Int32Array(count).fill(-1);
  const names: string[] = [];
  const paths: (string | undefined)[] = [];
  const scope = scopeOf(facts);
  for (let i = 0; i < count; i++) {
    const row = table.row(bound.row(i));
    scope.fields = row;
    scope.rows = [row];
    if (rule.parent !== undefined) parents[i] = parentIndex(rule.parent.evaluate(scope), i, count);
    else if (bound.folderRow !== undefined) parents[i] = byRow.get(bound.folderRow(i)) ?? -1;
    names.push(rule.name === undefined ? '' : textOf(rule.name.evaluate(scope)));
    paths.push(rule.path === undefined ? undefined : textOf(rule.path.evaluate(scope)));
  }
  const pathOf = (index: number): string => {
    const known = paths[index];
    if (known !== undefined) return known;
    const parts: string[] = [];
    let at = index;
    for (let level = 0; at >= 0; level++) {
      if (level > MAX_LEVELS)
        throw new FormatError({
          code: 'must-differs',
          recipe: recipe.id,
          line: rule.line,
          what: 'folders lie in one another without end',
          found: names[index]!,
        });
      parts.unshift(names[at]!);
      at = parents[at]!;
    }
    const path = parts.filter((part) => part !== '').join('/');
    paths[index] = path;
    return path;
  };
  const inside = new Float64Array(count);
  for (const parent of parents) if (parent >= 0) inside[parent]!++;
  const counts = new Float64Array(count);
  let totals: Float64Array | undefined;
  const total = (index: number) => (totals ??= totalsOf(counts, (folder) => parents[folder]!))[index]!;
  const firsts = new Float64Array(count);
  const known: TableFolder[] = [];
  const nameOf = (index: number) => {
    const path = pathOf(index);
    return rule.name === undefined ? path.slice(path.lastIndexOf('/') + 1) : names[index]!;
  };
  const folders: FolderTable = {
    count,
    table,
    row: (index) => bound.row(index),
    indexOf: (row) => byRow.get(row) ?? -1,
    path: pathOf,
    parent: (index) => parents[index]!,
    counts,
    firsts,
    facts: (index) => (known[index] ??= new TableFolder(index, inside[index]!, folders, { nameOf, total })),
  };
  return folders;
}

/** What is worked out of a table of folders when it is asked for. */
interface FolderLookups {
  nameOf(index: number): string;
  total(index: number): number;
}

/** What formulas see of a folder that was read: every entry in it may ask, and most ask for its path alone. */
class TableFolder implements FolderFacts {
  constructor(
    readonly index: number,
    readonly folders: number,
    private readonly table: FolderTable,
    private readonly lookups: FolderLookups,
  ) {}

  get path(): string {
    return this.table.path(this.index);
  }
  get name(): string {
    return this.lookups.nameOf(this.index);
  }
  get parent(): number {
    return this.table.parent(this.index);
  }
  get count(): number {
    return this.table.counts[this.index]!;
  }
  get first(): number {
    return this.table.firsts[this.index]!;
  }
  get all(): number {
    return this.lookups.total(this.index);
  }
}

/**
 * Entries in each folder and all below it.
 *
 * @param counts entries directly in each
 */
export function totalsOf(counts: ArrayLike<number>, parentOf: (folder: number) => number): Float64Array {
  const totals = new Float64Array(counts.length);
  for (let folder = 0; folder < counts.length; folder++)
    for (let at = folder, level = 0; at >= 0 && level <= MAX_LEVELS; at = parentOf(at), level++)
      totals[at]! += counts[folder]!;
  return totals;
}

/** A folder that is its own parent, or whose parent is no folder, lies at the top. */
function parentIndex(value: Value, own: number, count: number): number {
  const parent = isNumeric(value) ? Number(value) : -1;
  return parent >= 0 && parent < count && parent !== own ? parent : -1;
}

function textOf(value: Value): string {
  if (typeof value === 'string') return value;
  if (value === undefined) return '';
  throw new FormatError({ code: 'bad-text', what: 'the name of a folder is not a text', found: showValue(value) });
}
