/** What an opened file says, asked one by one. */
import { scopeOf, type Value } from '../formula/value';
import type { Binding, Formula } from '../model';
import type { OpenedArchive } from './archive';
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
