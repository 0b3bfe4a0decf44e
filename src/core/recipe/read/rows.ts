/** Finding the rows that `each` and `beside` bind: the items of a list, or all instances of a shape below a place. */
import { FormatError } from '../../faults';
import { isNumeric, scopeOf, type FileFacts } from '../formula/value';
import type { Binding, Formula, Recipe, Shape, SlotRule } from '../model';
import { instanceOf, itemsOf, ShapeColumn, ChoiceColumn, type Column } from './columns';
import type { FoundRegion } from './read-region';
import { isUsedSlot } from './slots';
import type { Table } from './table';

/** Rows of one table in the order of the file. */
export interface BoundRows {
  readonly table: Table;
  readonly count: number;
  row(index: number): number;
  /** The row of the enclosing instance of the folder shape, or -1; only where folders nest. */
  folderRow?(index: number): number;
}

/**
 * The rows of a binding.
 *
 * @returns undefined when its region is not there
 */
export function boundRows(
  recipe: Recipe,
  regions: ReadonlyMap<number, FoundRegion>,
  binding: Binding,
  folderShape?: Shape,
): BoundRows | undefined {
  const found = regions.get(binding.region);
  if (found?.column === undefined) return undefined;
  const place = placeOf(found.column, binding, recipe);
  if (place === undefined) return undefined;
  if (binding.anywhere) return gathered(found, place, binding, folderShape);
  const items = itemsOf(place.column, place.row);
  if (items === undefined) return undefined;
  const column = items.column as ShapeColumn;
  const { first, count } = items;
  return { table: column.table, count, row: (index) => column.innerRow(first + index) };
}

/**
 * The rows of a table beside in the order of the entries they belong to, by the number that each says. Where none says a
 * number, its row is -1; of two that say the same, the first counts.
 */
export function rowsByNumber(
  bound: BoundRows,
  by: Formula,
  slots: SlotRule | undefined,
  file: FileFacts,
  count: number,
): BoundRows {
  const scope = scopeOf(file);
  const places = new Float64Array(count).fill(-1);
  for (let i = 0; i < bound.count; i++) {
    const row = bound.row(i);
    const fields = bound.table.row(row);
    scope.index = i;
    scope.fields = fields;
    const isUsed = isUsedSlot(slots, scope);
    scope.fields = undefined;
    scope.rows = [fields];
    const number = isUsed ? by.evaluate(scope) : undefined;
    if (isNumeric(number) && number >= 0 && number < count && places[Number(number)]! < 0) places[Number(number)] = row;
  }
  return { table: bound.table, count, row: (index) => places[index]! };
}

function placeOf(top: Column, binding: Binding, recipe: Recipe): { column: Column; row: number } | undefined {
  let column = top;
  let row = 0;
  for (const field of binding.fieldPath) {
    const instance = instanceOf(column, row);
    if (instance === undefined) return undefined;
    column = instance.table.columns[field]!;
    ({ row } = instance);
  }
  if (column === undefined)
    throw new FormatError({ code: 'recipe-invalid', recipe: recipe.id, what: 'a place has no such field' });
  return { column, row };
}

function gathered(
  found: FoundRegion,
  place: { column: Column; row: number },
  binding: Binding,
  folderShape: Shape | undefined,
): BoundRows {
  const rows: number[] = [];
  const folders: number[] = [];
  walk(
    place.column,
    place.row,
    (table, row, enclosing) => {
      if (table.shape !== binding.shape) return;
      rows.push(row);
      folders.push(enclosing);
    },
    folderShape,
    -1,
  );
  return {
    table: found.tables.of(binding.shape),
    count: rows.length,
    row: (index) => rows[index]!,
    folderRow: (index) => folders[index] ?? -1,
  };
}

/** Visits every instance below a column's row, the outer before the inner. */
export function walk(
  column: Column,
  row: number,
  visit: (table: Table, row: number, folder: number) => void,
  folderShape: Shape | undefined,
  folder: number,
): void {
  if (column instanceof ChoiceColumn) {
    const chosen = column.chosenColumn(row);
    if (chosen !== undefined) walk(chosen, row, visit, folderShape, folder);
    return;
  }
  if (column instanceof ShapeColumn) {
    const inner = column.innerRow(row);
    if (inner < 0) return;
    const { table } = column;
    visit(table, inner, folder);
    const next = table.shape === folderShape ? inner : folder;
    for (const field of table.shape.fields)
      if ((field.kind.shapes ?? []).length > 0) walk(table.columns[field.index]!, inner, visit, folderShape, next);
    return;
  }
  const items = itemsOf(column, row);
  if (items === undefined || !(items.column instanceof ShapeColumn || items.column instanceof ChoiceColumn)) return;
  for (let i = 0; i < items.count; i++) walk(items.column, items.first + i, visit, folderShape, folder);
}
