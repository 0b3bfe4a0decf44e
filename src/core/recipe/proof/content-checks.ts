/** Whether the plain bytes of entries have the shape the recipe's `content` says, read like a region of their own. */
import { Cursor } from '../../bytes';
import { FaultError, FormatError, LimitError, throwIfStopped, type Fault } from '../../faults';
import { truthy, type Fields, type Scope } from '../formula/value';
import type { Check, ContentRule } from '../model';
import type { OpenedArchive } from '../read/opened-archive';
import { readingBudget } from '../read/budget';
import { instanceOf, itemsOf, type Column } from '../read/columns';
import { entryScope, readEntry } from '../read/entry-bytes';
import { readRow } from '../read/read-row';
import { Tables, type Table } from '../read/table';

/** Faults that are reported at most; of each entry the first. */
const MOST_FAULTS = 20;

/** What does not hold in the plain bytes of entries, the first fault of each. */
export async function contentFaults(archive: OpenedArchive, signal: AbortSignal | undefined): Promise<Fault[]> {
  const { entries, recipe, source } = archive;
  const faults: Fault[] = [];
  if (recipe.entries.content.length === 0) return faults;
  for (let entry = 0; entry < entries.count && faults.length < MOST_FAULTS; entry++) {
    throwIfStopped(signal);
    if (entries.isDeleted(entry) || entries.damage(entry) !== undefined) continue;
    try {
      const scope = entryScope(archive, entry);
      const rule = recipe.entries.content.find(({ when }) => when === undefined || truthy(when.evaluate(scope)));
      if (rule !== undefined) await checkContent(archive, entry, rule, scope, signal);
    } catch (error) {
      if (!(error instanceof FaultError) || error.fault.code === 'stopped') throw error;
      const path = entries.path(entry);
      faults.push({ file: source.name, recipe: recipe.id, ...error.fault, entry: path, within: path });
    }
  }
  return faults;
}

/** @throws FaultError with the offset in the plain bytes of the entry */
async function checkContent(
  archive: OpenedArchive,
  entry: number,
  { shape, line }: ContentRule,
  scope: Scope,
  signal: AbortSignal | undefined,
): Promise<void> {
  const { limits } = archive;
  const plain = await atMost(readEntry(archive, entry, { signal }), limits.maxRegionBytes);
  const tables = new Tables();
  const table = tables.of(shape);
  const cursor = new Cursor(plain);
  scope.fields = undefined;
  const row = readRow(shape, table, cursor, {
    scope,
    limits,
    tables,
    beyond: 0,
    depth: 0,
    held: 0,
    needed: 0,
    budget: readingBudget(limits, plain.length),
    elsewhere: undefined,
  });
  if (cursor.left > 0)
    throw new FormatError({
      code: 'must-differs',
      line,
      what: `the content of an entry goes on behind its shape ${shape.name}`,
      offset: cursor.position,
      expected: `an end at 0x${cursor.position.toString(16).toUpperCase()}`,
      found: `${cursor.left.toLocaleString('en')} bytes left over`,
    });
  checkRow(table, row, scope);
}

/** @throws LimitError above that many bytes: they are read at once */
async function atMost(chunks: AsyncIterable<Uint8Array>, most: number): Promise<Uint8Array> {
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of chunks) {
    size += chunk.length;
    if (size > most)
      throw new LimitError({
        code: 'limit-reached',
        what: 'the content of an entry is too large to be read at once',
        limit: `maxRegionBytes, ${most.toLocaleString('en')}`,
      });
    parts.push(chunk);
  }
  return parts.length === 1 ? parts[0]! : Buffer.concat(parts, size);
}

/** The conditions of a row and of all that lie in it. @throws FormatError for the first that does not hold */
function checkRow(table: Table, row: number, scope: Scope): void {
  const fields = table.row(row);
  const outer = scope.fields;
  if (outer !== undefined) scope.outer.push(outer);
  for (const field of table.shape.fields) {
    const column = table.columns[field.index]!;
    scope.fields = fields;
    if (field.checks.length > 0 && fields.get(field.index) !== undefined)
      for (const check of field.checks)
        if (!truthy(check.that.evaluate(scope))) throw doesNotHold(check, table, row, field.name);
    if ((field.kind.shapes ?? []).length > 0) checkInside(column, row, scope, fields);
  }
  if (outer !== undefined) scope.outer.pop();
  scope.fields = outer;
}

function checkInside(column: Column, row: number, scope: Scope, fields: Fields): void {
  const one = instanceOf(column, row);
  if (one !== undefined) return checkRow(one.table, one.row, scope);
  const items = itemsOf(column, row);
  const outer = scope.index;
  for (let i = 0; i < (items?.count ?? 0); i++) {
    const item = instanceOf(items!.column, items!.first + i);
    if (item === undefined) continue;
    scope.fields = fields;
    scope.index = i;
    checkRow(item.table, item.row, scope);
  }
  scope.index = outer;
}

function doesNotHold({ that, say }: Check, table: Table, row: number, field: string): FormatError {
  return new FormatError({
    code: 'must-differs',
    line: that.line,
    field: table.length > 1 ? `${table.shape.name}[${row}].${field}` : field,
    offset: table.start(row),
    what: say,
    expected: that.text,
    found: 'that it does not hold',
  });
}
