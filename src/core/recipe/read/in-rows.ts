/** Entries whose bytes lie inside their rows, in a format that has others elsewhere. */
import { isStretch } from '../formula/value';
import type { FieldKind, Recipe, Shape } from '../model';
import type { OpenedArchive } from './opened-archive';
import { ChoiceColumn, instanceOf, type Column } from './columns';
import type { Table } from './table';

/** Fields that lead from the row of an entry to bytes of its own, without a list on the way; undefined when there are none. */
function dataPath(shape: Shape, above: readonly Shape[] = []): readonly number[] | undefined {
  if (above.includes(shape)) return undefined;
  for (const { index, kind } of shape.fields) {
    for (const { type } of alternativesOf(kind)) {
      if (type.kind === 'data') return [index];
      if (type.kind !== 'shape') continue;
      const rest = dataPath(type.shape, [...above, shape]);
      if (rest !== undefined) return [index, ...rest];
    }
  }
  return undefined;
}

const alternativesOf = (kind: FieldKind): readonly FieldKind[] => kind.alternatives ?? [kind];

const paths = new WeakMap<Recipe['entries'], readonly number[] | 'none'>();

/** The path to the bytes inside rows, of recipes that say by themselves where entries lie. */
export function rowDataPath({ entries }: Recipe): readonly number[] | undefined {
  if (entries.data !== undefined) return undefined;
  let known = paths.get(entries);
  if (known === undefined) paths.set(entries, (known = dataPath(entries.each.shape) ?? 'none'));
  return known === 'none' ? undefined : known;
}

/** True for an entry whose bytes are those of a field in its row. */
export function isInRow(archive: OpenedArchive, entry: number): boolean {
  const { entries, recipe } = archive;
  if (recipe.entries.data !== undefined) return true;
  const path = rowDataPath(recipe);
  if (path === undefined) return false;
  const region = archive.regions.get(recipe.entries.each.region);
  if (region === undefined || region.volume !== entries.volume(entry)) return false;
  const data = valueAt(entries.rows, entries.row(entry), path);
  return isStretch(data) && data.at === entries.at(entry) && data.length === entries.stored(entry);
}

function valueAt(table: Table, row: number, path: readonly number[]) {
  let at: { table: Table; row: number } | undefined = { table, row };
  for (const [i, field] of path.entries()) {
    const column: Column = at!.table.columns[field]!;
    if (i === path.length - 1) {
      const own = column instanceof ChoiceColumn ? column.chosenColumn(at!.row) : column;
      return own?.get(at!.row);
    }
    at = instanceOf(column, at!.row);
    if (at === undefined) return undefined;
  }
  return undefined;
}
