/** One bad row costs one entry: faults that are noted with a row, so that the others can be read. */
import { FaultError } from '../../faults';
import type { Field, ReadContext, Shape } from '../model';
import type { Table, TableLengths } from './table';

/** What is wrong with one value, and leaves all others as they are. */
const WRONG_VALUES: ReadonlySet<string> = new Set(['outside-file', 'cut-short', 'must-differs', 'bad-text']);

/** How far the tables are filled before a field is read, where a fault in it may cost its row alone. */
export function rowFilled(field: Field, shape: Shape, { tolerant, tables }: ReadContext): TableLengths | undefined {
  if (tolerant?.has(shape) !== true) return undefined;
  return field.at !== undefined || (field.kind.shapes ?? []).length > 0 ? tables.lengths() : undefined;
}

/**
 * Notes a fault in a field that lies elsewhere, and takes back what was read of the field: nothing behind it depends on
 * where it ends.
 *
 * @param filled how far the tables were filled before
 * @returns false where the fault is more than a wrong value
 */
export function costsOnlyRow(
  error: unknown,
  field: Field,
  row: number,
  table: Table,
  offset: number,
  filled: TableLengths,
  context: ReadContext,
): boolean {
  if (field.at === undefined || !(error instanceof FaultError)) return false;
  const { code, limit } = error.fault;
  if (!WRONG_VALUES.has(code) && limit?.startsWith('maxTextBytes') !== true) return false;
  noteIncomplete(error, [field], row, table, offset, filled, context);
  return true;
}

/**
 * Notes a row that runs over the end of its list. Where it ends is not known, so the list ends with it; what lies behind
 * the list is read on.
 *
 * @returns false where the fault is another, or the row is not one of a list whose end is known
 */
export function endsList(
  error: unknown,
  field: Field,
  row: number,
  table: Table,
  offset: number,
  filled: TableLengths | undefined,
  context: ReadContext,
): boolean {
  const { shape } = table;
  if (context.listEnds !== true || context.tolerant?.has(shape) !== true) return false;
  if (!(error instanceof FaultError) || error.fault.code !== 'cut-short') return false;
  noteIncomplete(error, shape.fields.slice(field.index), row, table, offset, filled, context);
  return true;
}

/** @param unread the fields that have no value for it */
function noteIncomplete(
  error: FaultError,
  unread: readonly Field[],
  row: number,
  table: Table,
  offset: number,
  filled: TableLengths | undefined,
  { tables }: ReadContext,
): void {
  if (filled !== undefined) tables.reset(filled);
  for (const { index } of unread) table.columns[index]!.putAbsent(row);
  table.incomplete.add(row);
  if (table.damage.has(row)) return;
  table.damage.set(row, placed(error, table.shape, unread[0]!, row, table, offset) as FaultError);
}

/** A fault with the field and the row it was met in. */
export function placed(error: unknown, shape: Shape, field: Field, row: number, table: Table, offset: number): unknown {
  if (!(error instanceof FaultError) || error.fault.code === 'stopped') return error;
  if (error.fault.field !== undefined && error.fault.line !== undefined) return error;
  const name =
    table.length > 1 ? `${shape.name}[${row}].${error.fault.field ?? field.name}` : (error.fault.field ?? field.name);
  const { field: _, ...rest } = error.fault;
  const Class = error.constructor as new (fault: FaultError['fault'], options: { cause: unknown }) => FaultError;
  return new Class({ offset, line: field.line, ...rest, field: name }, { cause: error.cause });
}
