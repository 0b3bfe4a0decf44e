/** What a strict reader would not take, and this one does: order, no path, keys that are there twice, padding, overlaps. */
import { FaultError, throwIfStopped, type Fault } from '../../faults';
import { compareValues } from '../formula/arithmetic';
import { scopeOf, type Value } from '../formula/value';
import { showValue } from '../formula/show-value';
import type { Formula, Shape } from '../model';
import type { OpenedArchive } from '../read/opened-archive';
import { itemsOf, ShapeColumn, type Column } from '../read/columns';
import { entryScope } from '../read/entry-bytes';
import { isUsedSlot, probes, slotFormulas, slotRow, type SlotRow } from '../read/slots';
import type { Table } from '../read/table';

/** Faults with their place, the first of each kind and table first. */
export function readingFaults(archive: OpenedArchive, signal?: AbortSignal): Fault[] {
  const { source, recipe } = archive;
  const faults: Fault[] = [];
  for (const check of [remarks, unsorted, misplaced, astray, unnamed, doubled, overlapping]) {
    throwIfStopped(signal);
    for (const fault of check(archive)) faults.push({ file: source.name, recipe: recipe.id, ...fault });
  }
  return faults;
}

function* remarks(archive: OpenedArchive): Generator<Fault> {
  for (const { region, tables, unlocked } of archive.regions.values())
    for (const table of tables.all())
      for (const [row, fault] of table.remarks)
        yield { ...fault, ...placeIn(region.name, unlocked), field: fieldName(table, row, fault.field!) };
}

function* unsorted(archive: OpenedArchive): Generator<Fault> {
  for (const { region, tables, unlocked, column } of archive.regions.values()) {
    const place = placeIn(region.name, unlocked);
    if (region.sort.length > 0 && column !== undefined) yield* outOfOrder(archive, column, 0, region.sort, place);
    for (const table of tables.all())
      for (const field of table.shape.fields) {
        if (field.sort.length === 0) continue;
        const lists = table.columns[field.index]!;
        for (let row = 0; row < table.length; row++) yield* outOfOrder(archive, lists, row, field.sort, place);
      }
  }
}

/** The first item of a list that has smaller keys than the one before. */
function* outOfOrder(
  archive: OpenedArchive,
  column: Column,
  row: number,
  sort: readonly Formula[],
  place: Partial<Fault>,
): Generator<Fault> {
  const items = itemsOf(column, row);
  if (items === undefined || !(items.column instanceof ShapeColumn)) return;
  const scope = scopeOf(archive.facts);
  const { table } = items.column;
  let before: Value[] | undefined;
  for (let i = 0; i < items.count; i++) {
    const at = items.column.innerRow(items.first + i);
    scope.fields = table.row(at);
    scope.index = i;
    const entry = table === archive.entries.rows ? archive.entries.entryOfRow(at) : -1;
    scope.entry = entry < 0 ? undefined : archive.entries.facts(entry);
    const keys = valuesOf(sort, scope);
    if (keys === undefined) return;
    const key = before === undefined ? -1 : keys.findIndex((value, k) => order(before![k], value) !== 0);
    if (key >= 0 && order(before![key], keys[key]) > 0) {
      yield {
        code: 'must-differs',
        what: 'rows are not in the order the recipe says',
        ...place,
        line: sort[key]!.line,
        field: `${table.shape.name}[${at}]`,
        offset: table.start(at),
        expected: `${sort[key]!.text} of at least ${showValue(before![key])}`,
        found: showValue(keys[key]),
      };
      return;
    }
    before = keys;
  }
}

/** A row of a hashed table that no search finds. */
function* misplaced(archive: OpenedArchive): Generator<Fault> {
  for (const { region, unlocked, column } of archive.regions.values()) {
    const items = region.slots === undefined || column === undefined ? undefined : itemsOf(column, 0);
    if (items === undefined || !(items.column instanceof ShapeColumn)) continue;
    const { table } = items.column;
    const rule = region.slots!;
    const scope = scopeOf(archive.facts);
    const rows: SlotRow[] = [];
    for (let i = 0; i < items.count; i++) {
      const at = items.column.innerRow(items.first + i);
      scope.fields = table.row(at);
      scope.index = i;
      const values = valuesOf(slotFormulas(rule), scope);
      if (values === undefined) return;
      rows.push(slotRow(rule, values));
    }
    const lost = rows.findIndex((row, i) => row.state === 'used' && !isFound(rows, i));
    if (lost < 0) continue;
    const [home] = probes(rows[lost]!, rows.length);
    yield {
      code: 'must-differs',
      what: 'a row is not where a search for it leads',
      ...placeIn(region.name, unlocked),
      line: rule.by.line,
      field: `${table.shape.name}[${lost}]`,
      offset: table.start(items.column.innerRow(items.first + lost)),
      expected: `slot ${home}, or one behind used ones`,
      found: `slot ${lost}`,
    };
  }
}

/** A row of a table beside whose number is that of no entry, or of one that another row has named before. */
function* astray({ recipe, entries, facts, regions }: OpenedArchive): Generator<Fault> {
  for (const [k, { by, region }] of recipe.entries.beside.entries()) {
    if (by === undefined) continue;
    const table = entries.beside[k]!;
    const scope = scopeOf(facts);
    for (let row = 0; row < table.length; row++) {
      scope.index = row;
      scope.fields = table.row(row);
      if (entries.entryBeside(k, row) >= 0 || !isUsedSlot(recipe.regions[region]!.slots, scope)) continue;
      scope.rows = [scope.fields];
      yield {
        code: 'must-differs',
        what: 'a row belongs to no entry, or to one that another row belongs to',
        ...placeIn(recipe.regions[region]!.name, regions.get(region)?.unlocked === true),
        line: by.line,
        field: `${table.shape.name}[${row}]`,
        offset: table.start(row),
        expected: `${by.text} of an entry`,
        found: showValue(by.evaluate(scope)),
      };
      break;
    }
  }
}

function isFound(rows: readonly SlotRow[], wanted: number): boolean {
  for (const slot of probes(rows[wanted]!, rows.length)) {
    if (slot === wanted) return true;
    if (rows[slot]!.state === 'free') return false;
  }
  return false;
}

/** Undefined when they cannot be worked out, which has been reported with the formulas. */
function valuesOf(formulas: readonly Formula[], scope: ReturnType<typeof scopeOf>): Value[] | undefined {
  try {
    return formulas.map((formula) => formula.evaluate(scope));
  } catch (error) {
    if (error instanceof FaultError) return undefined;
    throw error;
  }
}

/** Values that cannot be compared are in no order. */
function order(a: Value, b: Value): number {
  try {
    return compareValues(a, b);
  } catch (error) {
    if (error instanceof FaultError) return 0;
    throw error;
  }
}

/** An entry without a path, in a format where each says its own. */
function* unnamed(archive: OpenedArchive): Generator<Fault> {
  const { entries, recipe } = archive;
  const { path, hash, id } = recipe.entries;
  if (path === undefined || hash !== undefined || id !== undefined) return;
  for (let entry = 0; entry < entries.count; entry++) {
    if (entries.isNamed(entry) || entries.damage(entry) !== undefined || entries.pathDamage(entry) !== undefined)
      continue;
    yield {
      code: 'must-differs',
      what: 'an entry has no path',
      ...rowPlace(archive, entry),
      line: path.line,
      entry: entries.path(entry),
      expected: 'a path',
      found: '""',
    };
    return;
  }
}

/** Entries that share what no two may share. */
function* doubled(archive: OpenedArchive): Generator<Fault> {
  const { entries, recipe } = archive;
  for (const key of recipe.entries.unique) {
    const first = new Map<string, number>();
    for (let entry = 0; entry < entries.count; entry++) {
      if (entries.damage(entry) !== undefined) continue;
      const [value] = valuesOf([key], entryScope(archive, entry)) ?? [];
      if (value === undefined) continue;
      const text = typeof value === 'string' ? value : showValue(value);
      const other = first.get(text);
      if (other === undefined) {
        first.set(text, entry);
        continue;
      }
      yield {
        code: 'must-differs',
        what: 'two entries share what no two may share',
        ...rowPlace(archive, entry),
        line: key.line,
        entry: entries.path(entry),
        expected: `another ${key.text} than that of row ${other}`,
        found: showValue(value),
      };
      break;
    }
  }
}

/** Entries whose stored bytes lie partly in those of another; the very same bytes may be shared. */
function* overlapping(archive: OpenedArchive): Generator<Fault> {
  const { entries, recipe } = archive;
  // Blocks that lie anywhere may be shared.
  if (recipe.entries.blocks?.at !== undefined) return;
  const byPlace: number[] = [];
  for (let i = 0; i < entries.count; i++)
    if (!entries.isDeleted(i) && entries.damage(i) === undefined && entries.stored(i) > 0) byPlace.push(i);
  byPlace.sort((a, b) => entries.volume(a) - entries.volume(b) || entries.at(a) - entries.at(b));
  let last: number | undefined;
  for (const entry of byPlace) {
    const end = last === undefined ? 0 : entries.at(last) + entries.stored(last);
    const isSame =
      last !== undefined && entries.at(last) === entries.at(entry) && entries.stored(last) === entries.stored(entry);
    if (last !== undefined && entries.volume(last) === entries.volume(entry) && entries.at(entry) < end && !isSame) {
      yield {
        code: 'outside-file',
        what: 'the bytes of two entries overlap',
        line: recipe.entries.line,
        entry: entries.path(entry),
        offset: entries.at(entry),
        expected: `a start at or behind 0x${end.toString(16).toUpperCase()}, the end of ${entries.path(last)}`,
        found: `0x${entries.at(entry).toString(16).toUpperCase()}`,
      };
      return;
    }
    if (
      last === undefined ||
      entries.volume(last) !== entries.volume(entry) ||
      entries.at(entry) + entries.stored(entry) > end
    )
      last = entry;
  }
}

function placeIn(region: string, unlocked: boolean): Partial<Fault> {
  return { region, ...(unlocked ? { within: region } : {}) };
}

function rowPlace({ entries, recipe, regions }: OpenedArchive, entry: number): Partial<Fault> {
  const found = regions.get(recipe.entries.each.region);
  const place = found === undefined ? {} : placeIn(found.region.name, found.unlocked);
  return { ...place, offset: entries.rows.start(entries.row(entry)) };
}

function fieldName(table: Table, row: number, field: string): string {
  const { shape }: { shape: Shape } = table;
  return table.length > 1 ? `${shape.name}[${row}].${field}` : field;
}
