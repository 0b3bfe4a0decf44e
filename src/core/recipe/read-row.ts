import type { Cursor } from '../bytes';
import { FaultError, FormatError, LimitError } from '../faults';
import { truthy } from './formula';
import type { Field, ReadContext, Shape } from './model';
import type { Column, Table } from './table';
import { showValue, type Value } from './value';

/**
 * Reads one instance of a shape onto the end of `table`, checking every `must`.
 *
 * @throws FormatError with field, line, offset, expected and found
 */
export function readRow(shape: Shape, table: Table, cursor: Cursor, context: ReadContext): void {
  if (++context.depth > context.limits.maxDepth) {
    throw new LimitError({
      code: 'limit-reached',
      what: 'shapes are nested too deep',
      offset: cursor.offset,
      limit: `depth of shapes, ${context.limits.maxDepth}`,
    });
  }
  const { scope } = context;
  const outer = scope.fields;
  const row = table.length;
  // One row object serves all rows of a table; a shape inside itself moves it, so it is set again before every field.
  const { current } = table;
  table.begin(cursor.offset);
  for (const field of shape.fields) {
    current.row = row;
    scope.fields = current;
    const start = cursor.offset;
    try {
      if (field.when !== undefined && !truthy(field.when.evaluate(scope))) {
        table.columns[field.index]!.pushAbsent();
        continue;
      }
      field.kind.read(cursor, table.columns[field.index]!, context);
      context.trace?.(field, shape, row, start, cursor.offset);
      if (field.must !== undefined) checkMust(field, table.columns[field.index]!, row, start);
    } catch (error) {
      scope.fields = outer;
      throw placed(error, shape, field, row, table, start);
    }
  }
  scope.fields = outer;
  context.depth--;
}

function checkMust(field: Field, column: Column, row: number, offset: number): void {
  let value: Value;
  let found: string;
  try {
    value = column.get(row);
    found = showValue(value);
  } catch (error) {
    // Bytes that are no text at all are told as bytes.
    if (!(error instanceof FormatError) || error.fault.code !== 'bad-text') throw error;
    found = showValue(column.kept(row));
  }
  if (field.must!.holds(value)) return;
  throw new FormatError({ code: 'must-differs', field: field.name, offset, expected: field.must!.text, found });
}

function placed(error: unknown, shape: Shape, field: Field, row: number, table: Table, offset: number): unknown {
  if (!(error instanceof FaultError) || (error.fault.field !== undefined && error.fault.line !== undefined))
    return error;
  const name = table.length > 1 ? `${shape.name}[${row}].${field.name}` : field.name;
  const { field: _, ...rest } = error.fault;
  const Class = error.constructor as new (fault: FaultError['fault'], options: { cause: unknown }) => FaultError;
  return new Class({ offset, line: field.line, ...rest, field: name }, { cause: error.cause });
}
