/** Comparing every computed field with its formula: what proves, on reading, that the recipe could write the file. */
import { createHasher } from '../codecs';
import { FaultError, throwIfStopped, type Fault } from '../faults';
import type { OpenedArchive } from './archive';
import { entryChain, storedSource } from './entry-bytes';
import type { EntriesRule, Field, Shape } from './model';
import { entryRows } from './read-region';
import { ListColumn, ShapeColumn, type Column, type Table } from './table';
import { decodeChunks } from './through';
import { sameValue, showValue, type EntryFacts, type Scope, type Value } from './value';

export interface FormulaCheck {
  readonly agree: number;
  readonly total: number;
  /** The first that disagree, at most {@link MAX_FAULTS}. */
  readonly faults: readonly Fault[];
}

export interface FormulaCheckOptions {
  /** Also formulas over the bytes of entries, for which every entry is read. */
  readonly deep: boolean;
  readonly signal?: AbortSignal | undefined;
  /** Entries checked so far, in a deep check. */
  readonly progress?: (done: number) => void;
}

const MAX_FAULTS = 20;

/** Evaluates the formula of every field of every row and compares. */
export async function checkFormulas(archive: OpenedArchive, options: FormulaCheckOptions): Promise<FormulaCheck> {
  const tally = { agree: 0, total: 0, faults: [] as Fault[] };
  const rows = entryRows(archive.recipe, archive.regions);
  for (const found of archive.regions.values()) {
    if (found.column === undefined) continue;
    const place = {
      region: found.region.name,
      ...(found.region.through.length > 0 ? { within: found.region.name } : {}),
    };
    for (const table of tablesOf(found.column)) {
      if (table !== rows.table) checkTable(archive, table, place, tally);
      else await checkRows(archive, table, rows.first, place, tally, options);
    }
  }
  return tally;
}

interface Tally {
  agree: number;
  total: number;
  faults: Fault[];
}

function* tablesOf(column: Column): Generator<Table> {
  if (column instanceof ListColumn) yield* tablesOf(column.items);
  if (!(column instanceof ShapeColumn)) return;
  yield column.table;
  for (const inner of column.table.columns) yield* tablesOf(inner);
}

function checkTable(archive: OpenedArchive, table: Table, place: Partial<Fault>, tally: Tally): void {
  const row = table.row(0);
  const scope: Scope = { file: archive.facts, fields: row, row: undefined, entry: undefined };
  for (const field of table.shape.fields) {
    if (field.is === undefined) continue;
    for (row.row = 0; row.row < table.length; row.row++) compare(archive, table, row.row, field, scope, place, tally);
  }
}

/** True when the entry's property was read from this very field, so that the formula cannot disagree. */
function agreesByItself(field: Field, rule: EntriesRule): boolean {
  const property = field.is!.entryProperty;
  if (property === 'method') return rule.methodField === field.index;
  if (property !== 'path' && property !== 'at' && property !== 'stored' && property !== 'size') return false;
  return rule[property]?.rowField === field.index;
}

async function checkRows(
  archive: OpenedArchive,
  table: Table,
  first: number,
  place: Partial<Fault>,
  tally: Tally,
  options: FormulaCheckOptions,
): Promise<void> {
  const { entries, recipe } = archive;
  const row = table.row(0);
  const scope: Scope = { file: archive.facts, fields: row, row, entry: undefined };
  const fields = table.shape.fields.filter((field) => field.is !== undefined);
  const plain: Field[] = [];
  for (const field of fields) {
    if (agreesByItself(field, recipe.entries)) {
      tally.total += entries.count;
      tally.agree += entries.count;
    } else if (field.is!.uses.content.length === 0) plain.push(field);
  }
  const deep = options.deep ? fields.filter((field) => field.is!.uses.content.length > 0) : [];
  if (plain.length === 0 && deep.length === 0) return;
  for (let entry = 0; entry < entries.count; entry++) {
    row.row = first + entry;
    let content: ReadonlyMap<string, Value> = new Map();
    let unreadable: Fault | undefined;
    if (deep.length > 0) {
      throwIfStopped(options.signal);
      try {
        content = await contentHashes(archive, entry, table.shape, options.signal);
      } catch (error) {
        if (!(error instanceof FaultError) || error.fault.code === 'stopped') throw error;
        unreadable = { ...error.fault, entry: entries.path(entry) };
      }
      options.progress?.(entry + 1);
    }
    scope.entry = entryFacts(archive, entry, content);
    for (const field of plain) compare(archive, table, row.row, field, scope, place, tally);
    for (const field of deep) {
      if (unreadable === undefined) compare(archive, table, row.row, field, scope, place, tally);
      else {
        tally.total++;
        note(tally, { file: archive.source.name, recipe: recipe.id, ...unreadable });
      }
    }
  }
}

function compare(
  archive: OpenedArchive,
  table: Table,
  row: number,
  field: Field,
  scope: Scope,
  place: Partial<Fault>,
  tally: Tally,
): void {
  const found = table.columns[field.index]!.get(row);
  if (found === undefined && field.when !== undefined) return;
  tally.total++;
  const expected = field.is!.evaluate(scope);
  if (sameValue(found, expected)) {
    tally.agree++;
    return;
  }
  note(tally, {
    code: 'formula-differs',
    file: archive.source.name,
    recipe: archive.recipe.id,
    line: field.line,
    ...place,
    field: table.length > 1 ? `${table.shape.name}[${row}].${field.name}` : field.name,
    offset: fieldOffset(table, row, field),
    expected: `${showValue(expected)} = ${field.is!.text}`,
    found: showValue(found),
  });
}

function note(tally: Tally, fault: Fault): void {
  if (tally.faults.length < MAX_FAULTS) tally.faults.push(fault);
}

/** Exact while the fields before it have fixed sizes, else the start of the row. */
function fieldOffset(table: Table, row: number, field: Field): number {
  let offset = table.start(row);
  for (const before of table.shape.fields.slice(0, field.index)) {
    if (before.kind.fixedSize === undefined || before.when !== undefined) return table.start(row);
    offset += before.kind.fixedSize;
  }
  return offset;
}

function entryFacts(archive: OpenedArchive, entry: number, content: ReadonlyMap<string, Value>): EntryFacts {
  const { entries } = archive;
  return {
    path: entries.path(entry),
    at: entries.at(entry),
    stored: entries.stored(entry),
    size: entries.size(entry),
    method: entries.method(entry),
    content: (which, hasher) => content.get(`${which}:${hasher}`),
  };
}

/** All hashes the row's formulas want, over the entry's bytes. */
async function contentHashes(
  archive: OpenedArchive,
  entry: number,
  shape: Shape,
  signal: AbortSignal | undefined,
): Promise<ReadonlyMap<string, Value>> {
  const wanted = new Set(
    shape.fields.flatMap((field) => (field.is?.uses.content ?? []).map((one) => `${one.which}:${one.hasher}`)),
  );
  const machines = [...wanted].map((key) => ({ key, hasher: createHasher(key.slice(key.indexOf(':') + 1))! }));
  const stored = storedSource(archive, entry);
  const chain = entryChain(archive, entry);
  const options = { maxStoredBytes: archive.limits.maxRegionBytes, signal };
  const overData = machines.filter(({ key }) => key.startsWith('data:'));
  const overPacked = machines.filter(({ key }) => key.startsWith('packed:'));
  if (overData.length > 0) {
    for await (const chunk of decodeChunks(stored, chain, options))
      for (const { hasher } of overData) hasher.update(chunk);
  }
  if (overPacked.length > 0) {
    for await (const chunk of decodeChunks(stored, { steps: [], plainSize: undefined }, options))
      for (const { hasher } of overPacked) hasher.update(chunk);
  }
  return new Map(machines.map(({ key, hasher }) => [key, hasher.digest()]));
}
