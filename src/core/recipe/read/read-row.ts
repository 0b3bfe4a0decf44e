import type { Cursor } from '../../bytes';
import { Cursor as ByteCursor } from '../../bytes';
import type { FaultError } from '../../faults';
import { FormatError, LimitError } from '../../faults';
import { bitsOf } from '../formula/bits';
import { truthy, type Value } from '../formula/value';
import { showValue, wholeNumber } from '../formula/show-value';
import type { Field, Flow, ReadContext, Shape } from '../model';
import { costsOnlyRow, endsList, placed, rowFilled } from './bad-rows';
import type { Column } from './columns';
import { MOST_REMARKS, type RowCursor, type Table, type TableLengths } from './table';

/**
 * Reads one instance of a shape as the next row of `table`, checking every `must`.
 *
 * @returns the row
 * @throws FormatError with field, line, offset, expected and found
 */
export function readRow(shape: Shape, table: Table, cursor: Cursor, context: ReadContext): number {
  const row = table.begin(cursor.offset);
  const current = enter(shape, table, row, cursor.offset, context);
  const { scope } = context;
  const outer = scope.fields;
  if (outer !== undefined) scope.outer.push(outer);
  const { fields } = shape;
  for (let i = 0; i < fields.length; i++) {
    const field = fields[i]!;
    // A shape inside itself moves the row object, and formulas of nested shapes replace the scope's: set it again.
    current.row = row;
    scope.fields = current;
    scope.here = cursor.offset;
    const start = cursor.offset;
    const column = table.columns[i]!;
    let filled: TableLengths | undefined;
    try {
      if (field.when !== undefined && !truthy(field.when.evaluate(scope))) {
        column.putAbsent(row);
        continue;
      }
      filled = rowFilled(field, shape, context);
      if (field.at === undefined && field.size === undefined) {
        field.kind.read(cursor, column, row, context);
        if (field.marked) table.mark(i, row, start, cursor.offset - start);
      } else readPlaced(field, table, row, cursor, context);
      if (context.remark !== undefined) noteRemark(field, table, row, start, context);
      if (context.trace !== undefined) {
        scope.fields = current;
        context.trace(field, shape, row, start, cursor.offset, readable(column, row));
      }
      if (field.must !== undefined || field.parts.length > 0) checkMust(field, column, row, start, context, table);
    } catch (error) {
      filled ??= rowFilled(field, shape, context);
      if (filled !== undefined && costsOnlyRow(error, field, row, table, start, filled, context)) continue;
      leave(context, outer);
      if (context.beyond > 0 || !endsList(error, field, row, table, start, filled, context))
        throw placed(error, shape, field, row, table, start);
      cursor.advance(cursor.left);
      return row;
    }
  }
  leave(context, outer);
  return row;
}

/** The same, fetching the file on the way: for shapes that hold data or have fields elsewhere. */
export async function readRowFlow(shape: Shape, table: Table, flow: Flow, context: ReadContext): Promise<number> {
  const row = table.begin(flow.position);
  const current = enter(shape, table, row, flow.position, context);
  const { scope } = context;
  const outer = scope.fields;
  if (outer !== undefined) scope.outer.push(outer);
  // Counted: an iterator would be made for every row.
  for (let i = 0; i < shape.fields.length; i++) {
    const field = shape.fields[i]!;
    current.row = row;
    scope.fields = current;
    scope.here = flow.position;
    let start = flow.position;
    const column = table.columns[field.index]!;
    const { end } = flow;
    const back = field.at === undefined ? undefined : flow.position;
    let filled: TableLengths | undefined;
    try {
      if (field.when !== undefined && !truthy(field.when.evaluate(scope))) {
        column.putAbsent(row);
        continue;
      }
      filled = rowFilled(field, shape, context);
      if (field.at !== undefined) {
        flow.position = wholeNumber(field.at.evaluate(scope), `the place of ${field.name}`);
        start = flow.position;
        if (start > end) throw outsideField(field, start, end);
      }
      const size = field.size === undefined ? undefined : sizeOf(field, context);
      if (size !== undefined) {
        if (start + size > end) throw overrun(field, start, size, end - start);
        flow.end = start + size;
      }
      if (field.kind.flows) await field.kind.readFlow!(flow, column, row, context);
      else {
        const fetching = flow.small(field.kind, column, row, context);
        if (fetching !== undefined) await fetching;
      }
      if (context.remark !== undefined) noteRemark(field, table, row, start, context);
      if (size !== undefined && flow.position !== start + size) throw leftOver(field, flow.position, start + size);
      if (field.marked) table.mark(field.index, row, start, flow.position - start);
      if (context.trace !== undefined) {
        current.row = row;
        scope.fields = current;
        context.trace(field, shape, row, start, flow.position, readable(column, row));
      }
      if (field.must !== undefined || field.parts.length > 0) checkMust(field, column, row, start, context, table);
      flow.end = end;
      if (back !== undefined) flow.position = back;
    } catch (error) {
      flow.end = end;
      filled ??= rowFilled(field, shape, context);
      if (filled !== undefined && costsOnlyRow(error, field, row, table, start, filled, context)) {
        flow.position = back!;
        continue;
      }
      leave(context, outer);
      if (!endsList(error, field, row, table, start, filled, context))
        throw placed(error, shape, field, row, table, start);
      flow.position = end;
      return row;
    }
  }
  leave(context, outer);
  return row;
}

function enter(shape: Shape, table: Table, row: number, offset: number, context: ReadContext): RowCursor {
  context.budget.row(offset);
  if (++context.depth > context.limits.maxDepth) {
    throw new LimitError({
      code: 'limit-reached',
      what: 'shapes are nested too deep',
      offset,
      limit: `maxDepth, ${context.limits.maxDepth} shapes inside one another`,
    });
  }
  // One row object serves all rows of a table, unless an instance may hold another of its shape.
  return shape.recursive ? table.row(row) : table.current;
}

function leave(context: ReadContext, outer: ReadContext['scope']['fields']): void {
  if (outer !== undefined) context.scope.outer.pop();
  context.scope.fields = outer;
  context.depth--;
}

/** A field that lies elsewhere, or is confined to a stated number of bytes. */
function readPlaced(field: Field, table: Table, row: number, cursor: Cursor, context: ReadContext): void {
  const { scope } = context;
  let inner = cursor;
  if (field.at !== undefined) {
    const at = wholeNumber(field.at.evaluate(scope), `the place of ${field.name}`);
    if (context.elsewhere === undefined)
      throw new FormatError({ code: 'recipe-invalid', what: `${field.name} cannot lie elsewhere here` });
    inner = context.elsewhere(at);
  }
  const start = inner.offset;
  const column = table.columns[field.index]!;
  if (field.size === undefined) {
    field.kind.read(inner, column, row, context);
  } else {
    const size = sizeOf(field, context);
    if (size > inner.left + context.beyond) throw overrun(field, start, size, inner.left + context.beyond);
    const from = inner.advance(size);
    const confined = new ByteCursor(inner.bytes.subarray(from, from + size), start);
    field.kind.read(confined, column, row, { ...context, beyond: 0 });
    if (confined.left > 0) throw leftOver(field, confined.offset, start + size);
  }
  if (field.marked) table.mark(field.index, row, start, inner.offset - start);
}

function sizeOf(field: Field, context: ReadContext): number {
  return wholeNumber(field.size!.evaluate(context.scope), `the size of ${field.name}`);
}

function overrun(field: Field, offset: number, size: number, left: number): FormatError {
  return new FormatError({
    code: 'cut-short',
    offset,
    field: field.name,
    what: `${field.name} does not fit`,
    expected: `${size.toLocaleString('en')} bytes`,
    found: `${left.toLocaleString('en')} left`,
  });
}

function leftOver(field: Field, offset: number, end: number): FormatError {
  return new FormatError({
    code: 'must-differs',
    offset,
    field: field.name,
    what: `${field.name} does not fill its size`,
    expected: `an end at 0x${end.toString(16).toUpperCase()}`,
    found: `${(end - offset).toLocaleString('en')} bytes left over`,
    hint: 'End the shape with `{ field: rest, as: bytes(rest) }` to keep them.',
  });
}

function outsideField(field: Field, at: number, end: number): FormatError {
  return new FormatError({
    code: 'outside-file',
    offset: at,
    field: field.name,
    what: `${field.name} lies outside the file`,
    expected: `an offset up to 0x${end.toString(16).toUpperCase()}`,
    found: `0x${at.toString(16).toUpperCase()}`,
  });
}

function noteRemark(field: Field, table: Table, row: number, offset: number, context: ReadContext): void {
  const { remark } = context;
  context.remark = undefined;
  if (table.remarks.size >= MOST_REMARKS || table.remarks.has(row)) return;
  table.remarks.set(row, { code: 'must-differs', ...remark, line: field.line, field: field.name, offset });
}

/** @throws FormatError where a field is not what it must be, unless that costs its row alone and is noted there */
function checkMust(
  field: Field,
  column: Column,
  row: number,
  offset: number,
  context: ReadContext,
  table: Table,
): void {
  try {
    compareMust(field, column, row, offset, context);
  } catch (error) {
    if (!(error instanceof FormatError) || context.tolerant?.has(table.shape) !== true) throw error;
    if (!table.damage.has(row))
      table.damage.set(row, placed(error, table.shape, field, row, table, offset) as FaultError);
  }
}

function compareMust(field: Field, column: Column, row: number, offset: number, context: ReadContext): void {
  let value: Value;
  try {
    value = column.get(row);
  } catch (error) {
    // Bytes that are no text at all are reported as bytes.
    if (!(error instanceof FormatError) || error.fault.code !== 'bad-text' || field.must === undefined) throw error;
    throw differs(field.name, offset, field.must.text, showValue(column.kept(row)));
  }
  if (field.must !== undefined && !field.must.holds(value))
    throw differs(field.name, offset, field.must.text, showValue(value));
  if (field.must !== undefined) context.held++;
  for (const part of field.parts) {
    if (part.must === undefined) continue;
    const bits = bitsOf(value, part.shift, part.width);
    if (!part.must.holds(bits)) throw differs(`${field.name}.${part.name}`, offset, part.must.text, showValue(bits));
  }
}

function differs(field: string, offset: number, expected: string, found: string): FormatError {
  return new FormatError({ code: 'must-differs', field, offset, expected, found });
}

/** The value, or the bytes of a text that is none. */
function readable(column: Column, row: number): Value {
  try {
    return column.get(row);
  } catch {
    return column.kept(row);
  }
}
