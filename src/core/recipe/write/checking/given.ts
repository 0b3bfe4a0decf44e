/** What was given again: fields that were set, and regions whose bytes were replaced. */
import { sameValue } from '../../formula/value';
import { showValue } from '../../formula/show-value';
import type { OpenedArchive } from '../../read/opened-archive';
import type { Column } from '../../read/columns';
import { failed, type CheckSetting } from './meant';

/** New values of fields have to be read back, in rows of entries and in what is once in the file. */
export function checkValues(
  { archive, meant, values }: CheckSetting,
  again: OpenedArchive,
  found: (i: number) => number,
): void {
  if (values.length === 0 || archive === undefined) return;
  const positions = new Map<number, number>();
  for (let i = 0; i < meant.count; i++) {
    const { base } = meant.at(i);
    if (base !== undefined) positions.set(base, found(i));
  }
  for (const { place, value } of values) {
    const where = placeOfColumn(archive, place.column);
    if (where === undefined) continue;
    const { region, table, field } = where;
    const now = again.regions.get(region)?.tables.find(table.shape);
    const entry = table === archive.entries.rows ? positions.get(archive.entries.entryOfRow(place.row)) : undefined;
    const row = entry !== undefined ? again.entries.row(entry) : table.length === now?.length ? place.row : undefined;
    if (now === undefined || row === undefined) continue;
    const made = now.columns[field.index]!.get(row);
    if (sameValue(made, value)) continue;
    throw failed({
      what: 'a field would not read back as it was set',
      region: archive.recipe.regions[region]!.name,
      field: field.name,
      line: field.line,
      expected: showValue(value),
      found: showValue(made),
    });
  }
}

function placeOfColumn(archive: OpenedArchive, column: Column) {
  for (const [region, { tables }] of archive.regions)
    for (const table of tables.all()) {
      const index = table.columns.indexOf(column);
      if (index >= 0) return { region, table, field: table.shape.fields[index]! };
    }
  return undefined;
}

export function checkRegions({ regions }: CheckSetting, again: OpenedArchive): void {
  for (const [index, bytes] of regions) {
    const found = again.regions.get(index);
    if (found?.stored === undefined || Buffer.compare(found.stored, bytes) === 0) continue;
    throw failed({
      what: 'a region would not read back as it was given',
      region: found.region.name,
      line: found.region.line,
      offset: found.at,
    });
  }
}
