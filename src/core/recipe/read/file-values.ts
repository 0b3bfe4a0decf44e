/** What an opened file says, asked one by one. */
import { scopeOf, type Value } from '../formula/value';
import type { Binding, Field, Formula } from '../model';
import type { OpenedArchive } from './opened-archive';
import { instanceOf, type Column } from './columns';
import { boundRows } from './rows';

/** The value of a formula that looks at nothing but the file. */
export const valueIn = ({ facts }: OpenedArchive, formula: Formula): Value => formula.evaluate(scopeOf(facts));

/** The stored bytes of a region; nothing when it is not there. */
export async function regionBytes(file: OpenedArchive, region: number): Promise<Uint8Array | undefined> {
  const found = file.regions.get(region);
  return (
    found?.stored ?? (found === undefined ? undefined : file.volumes[found.volume]?.source.read(found.at, found.length))
  );
}

/** The value of a formula of the `entries` part for one entry. */
export function entryValue({ facts, entries }: OpenedArchive, entry: number, formula: Formula): Value {
  const scope = scopeOf(facts);
  scope.rows = [
    entries.rows.row(entries.row(entry)),
    ...entries.beside.map((table, i) => table.row(entries.besideRow(i, entry))),
  ];
  scope.entry = entries.facts(entry);
  return formula.evaluate(scope);
}

/** It follows no formula, may have several values, and is there in any case. */
const isSettable = ({ is, must, when }: Field): boolean =>
  is === undefined && must?.choices?.length !== 1 && when === undefined;

/** The field of an entry's row that a formula of the `entries` part is, when it is nothing else and follows no formula. */
export function entryFieldPlace(
  { recipe, entries }: OpenedArchive,
  entry: number,
  { rowField }: Formula,
): FieldPlace | undefined {
  const field = rowField === undefined ? undefined : recipe.entries.each.shape.fields[rowField];
  if (field === undefined || !isSettable(field)) return undefined;
  return { column: entries.rows.columns[rowField!]!, row: entries.row(entry), names: field.kind.names };
}

/** The values of formulas for each row of a table; none when its region is not there. */
export function rowValues(
  { recipe, regions, facts }: OpenedArchive,
  each: Binding,
  formulas: readonly Formula[],
): Value[][] {
  const rows = boundRows(recipe, regions, each);
  if (rows === undefined) return [];
  const scope = scopeOf(facts);
  return Array.from({ length: rows.count }, (_, i) => {
    scope.rows = [rows.table.row(rows.row(i))];
    return formulas.map((formula) => formula.evaluate(scope));
  });
}

/** Where the value of a field is kept, so that it can be given another. */
export interface FieldPlace {
  readonly column: Column;
  readonly row: number;
  /** The names its values have, when they have some. */
  readonly names: readonly string[] | undefined;
}

/**
 * The field that a formula is, when it is nothing but `region.field` of a region that holds one shape, and the field follows
 * no formula and no condition of its own.
 */
export function fieldPlace({ recipe, regions }: OpenedArchive, { text }: Formula): FieldPlace | undefined {
  const [, regionName, fieldName] = /^\s*([A-Za-z_][\w-]*)\.([A-Za-z_][\w-]*)\s*$/.exec(text) ?? [];
  const region = recipe.regions.find(({ name }) => name === regionName);
  const column = region === undefined ? undefined : regions.get(region.index)?.column;
  const instance = column === undefined ? undefined : instanceOf(column, 0);
  if (instance === undefined) return undefined;
  const index = instance.table.shape.indexOf(fieldName!);
  const field = instance.table.shape.fields[index];
  if (field === undefined || !isSettable(field)) return undefined;
  return { column: instance.table.columns[index]!, row: instance.row, names: field.kind.names };
}

/** One row of a table: its fields by their names, and where those are kept that may be set. */
export interface RowFields {
  readonly values: Readonly<Record<string, Value>>;
  readonly places: Readonly<Record<string, FieldPlace>>;
}

/** All rows of a table; none when its region is not there. */
export function rowFields({ recipe, regions }: OpenedArchive, each: Binding): RowFields[] {
  const rows = boundRows(recipe, regions, each);
  if (rows === undefined) return [];
  const { fields } = rows.table.shape;
  return Array.from({ length: rows.count }, (_, i) => {
    const row = rows.row(i);
    const found = rows.table.row(row);
    const settable = fields.filter(isSettable);
    return {
      values: Object.fromEntries(fields.map((field) => [field.name, found.get(field.index)])),
      places: Object.fromEntries(
        settable.map(({ name, index, kind }) => [
          name,
          { column: rows.table.columns[index]!, row, names: kind.names } satisfies FieldPlace,
        ]),
      ),
    };
  });
}

/** The field that a formula is in each row of a table, as {@link fieldPlace}; none when its region is not there. */
export function rowFieldPlaces({ recipe, regions }: OpenedArchive, each: Binding, { rowField }: Formula): FieldPlace[] {
  const rows = boundRows(recipe, regions, each);
  const field = rowField === undefined ? undefined : each.shape.fields[rowField];
  if (rows === undefined || field === undefined || !isSettable(field)) return [];
  const column = rows.table.columns[rowField!]!;
  return Array.from({ length: rows.count }, (_, i) => ({ column, row: rows.row(i), names: field.kind.names }));
}
