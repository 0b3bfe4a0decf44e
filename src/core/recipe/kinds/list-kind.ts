/** Lists: counted, filling a size, until or while something holds, to the end. */
import { Cursor } from '../../bytes';
import { FormatError, LimitError } from '../../faults';
import { isList, truthy, type ListValue, type Scope, type Value } from '../formula/value';
import { wholeNumber } from '../formula/show-value';
import type { FieldKind, Flow, Formula, ReadContext } from '../model';
import { ListColumn, LooseListColumn } from '../read/columns';
import { isShort } from '../read/flow';
import { undoPoint } from '../read/undo';

export type Extent =
  | { readonly kind: 'count'; readonly count: Formula }
  | { readonly kind: 'size'; readonly size: Formula }
  | { readonly kind: 'until'; readonly last: Formula }
  /** What is read and does not belong to the list is read again behind it. */
  | { readonly kind: 'while'; readonly belongs: Formula }
  | { readonly kind: 'end' };

/** Rows that room is made for at once; a false count must not take memory for what is not there. */
const MOST_RESERVED = 1 << 22;

export function listKind(text: string, item: FieldKind, extent: Extent): FieldKind {
  const loose = () => (item.shapes ?? []).some((shape) => shape.recursive);
  return {
    text,
    fixedSize: undefined,
    minSize: 0,
    get flows() {
      return item.flows;
    },
    type: { kind: 'list', of: item.type },
    ...(extent.kind === 'count' ? { listCount: extent.count } : {}),
    ...(item.shapes === undefined ? {} : { shapes: item.shapes }),
    makeColumn: (tables) =>
      loose() ? new LooseListColumn(() => item.makeColumn(tables)) : new ListColumn(item.makeColumn(tables)),
    read: (cursor, column, row, context) => {
      const outerEnds = context.listEnds;
      context.listEnds = endIsKnown(extent);
      try {
        readList(cursor, column as ListColumn, row, context, item, extent, text);
      } finally {
        // A second read with more bytes goes on with the same context.
        context.listEnds = outerEnds;
      }
    },
    readFlow: async (flow, column, row, context) => {
      const outerEnds = context.listEnds;
      context.listEnds = endIsKnown(extent);
      try {
        await readListFlow(flow, column as ListColumn, row, context, item, extent, text);
      } finally {
        context.listEnds = outerEnds;
      }
    },
    write: (writer, value, scope) => {
      if (value === undefined) return;
      if (!isList(value)) throw new FormatError({ code: 'layout-impossible', what: `${text} wants a list` });
      const outer = scope.index;
      for (let row = 0; row < value.length; row++) {
        scope.index = row;
        item.write(writer, value.at(row), scope);
      }
      scope.index = outer;
    },
  };
}

async function readListFlow(
  flow: Flow,
  list: ListColumn | LooseListColumn,
  row: number,
  context: ReadContext,
  item: FieldKind,
  extent: Extent,
  text: string,
): Promise<void> {
  const { scope } = context;
  const { fields } = scope;
  const start = flow.position;
  const outerEnd = flow.end;
  if (extent.kind === 'size') {
    const size = wholeNumber(extent.size.evaluate(scope), `the size of ${text}`);
    if (start + size > flow.end) throw tooFew(text, start, size, flow.end - start);
    flow.end = start + size;
  }
  const wanted = extent.kind === 'count' ? wholeNumber(extent.count.evaluate(scope), `the count of ${text}`) : Infinity;
  if (extent.kind === 'count') checkCount(wanted, item, text, start, flow.end - start, context);
  const { items, first } = list.open(row);
  const compact = item.type.kind === 'shape' && item.type.shape.compact;
  let count = 0;
  while (count < wanted && (extent.kind === 'count' || extent.kind === 'until' || flow.position < flow.end)) {
    const at = flow.position;
    scope.fields = fields;
    scope.index = count;
    const undo = extent.kind === 'while' ? undoPoint(context) : undefined;
    try {
      if (item.flows) {
        const whole = compact && flow.inside(item, items, first + count, context);
        if (!whole) await item.readFlow!(flow, items, first + count, context);
      } else {
        const fetching = flow.small(item, items, first + count, context);
        if (fetching !== undefined) await fetching;
      }
    } catch (error) {
      // What follows the list may be shorter than an item.
      if (undo === undefined || !isShort(error)) throw error;
      undo();
      flow.position = at;
      break;
    }
    if (extent.kind === 'while' && !holds(extent.belongs, scope, fields, items.get(first + count))) {
      undo!();
      flow.position = at;
      break;
    }
    count++;
    if (extent.kind !== 'count') {
      checkProgress(text, at, flow.position);
      checkRows(count, text, at, context);
    }
    if (extent.kind === 'until' && holds(extent.last, scope, fields, items.get(first + count - 1))) break;
  }
  list.close(row, count);
  flow.end = outerEnd;
}

function readList(
  whole: Cursor,
  list: ListColumn | LooseListColumn,
  row: number,
  context: ReadContext,
  item: FieldKind,
  extent: Extent,
  text: string,
): void {
  const { scope } = context;
  const { fields } = scope;
  const outer = scope.index;
  let cursor = whole;
  let wanted = Infinity;
  if (extent.kind === 'count') {
    wanted = wholeNumber(extent.count.evaluate(scope), `the count of ${text}`);
    checkCount(wanted, item, text, cursor.offset, cursor.left + context.beyond, context);
    if (context.beyond > 0 && wanted * item.minSize > cursor.left) {
      // More of the region must be fetched: said before room for all rows is made in vain.
      context.needed = cursor.position + wanted * item.minSize;
      cursor.advance(cursor.left + 1);
    }
  } else if (extent.kind === 'size') {
    const size = wholeNumber(extent.size.evaluate(scope), `the size of ${text}`);
    const from = whole.offset;
    const start = whole.advance(size);
    cursor = new Cursor(whole.bytes.subarray(start, start + size), from);
  } else if (extent.kind === 'end' && context.beyond > 0) {
    context.needed = cursor.position + cursor.left + context.beyond;
    cursor.advance(cursor.left + 1);
  }
  const { items, first } = list.open(row);
  if (wanted !== Infinity) items.reserve(Math.min(first + wanted, first + MOST_RESERVED));
  let count = 0;
  const beyond = extent.kind === 'while' ? context.beyond : 0;
  while (count < wanted && (extent.kind === 'count' || extent.kind === 'until' || cursor.left + beyond > 0)) {
    const at = cursor.position;
    scope.fields = fields;
    scope.index = count;
    const undo = extent.kind === 'while' ? undoPoint(context) : undefined;
    try {
      item.read(cursor, items, first + count, context);
    } catch (error) {
      if (undo === undefined || beyond > 0 || !isShort(error)) throw error;
      undo();
      cursor.position = at;
      break;
    }
    if (extent.kind === 'while' && !holds(extent.belongs, scope, fields, items.get(first + count))) {
      undo!();
      cursor.position = at;
      break;
    }
    count++;
    if (extent.kind !== 'count') {
      checkProgress(text, cursor.base + at, cursor.offset);
      checkRows(count, text, cursor.offset, context);
    }
    if (extent.kind === 'until' && holds(extent.last, scope, fields, items.get(first + count - 1))) break;
  }
  list.close(row, count);
  scope.index = outer;
}

/** False for lists that end where an item says so: what runs over the end may belong to whatever follows. */
function endIsKnown({ kind }: Extent): boolean {
  return kind === 'count' || kind === 'size' || kind === 'end';
}

function holds(condition: Formula, scope: Scope, fields: Scope['fields'], item: Value): boolean {
  scope.fields = fields;
  scope.item = item;
  return truthy(condition.evaluate(scope));
}

function checkProgress(text: string, before: number, after: number): void {
  if (after > before) return;
  throw new FormatError({
    code: 'must-differs',
    what: `an item of ${text} takes no bytes, so the list would never end`,
    offset: before,
    hint: 'Give the list a count, or its items at least one byte.',
  });
}

function checkRows(rows: number, text: string, offset: number, context: ReadContext): void {
  if (rows <= context.limits.maxRows) return;
  throw new LimitError({
    code: 'limit-reached',
    what: `${text} has too many rows`,
    offset,
    found: rows.toLocaleString('en'),
    limit: `maxRows, ${context.limits.maxRows.toLocaleString('en')}`,
  });
}

/** A count that the rest of the region cannot hold is refused before a single row is read. */
function checkCount(
  rows: number,
  item: FieldKind,
  text: string,
  offset: number,
  left: number,
  context: ReadContext,
): void {
  // Items without bytes could be counted without end.
  const least = Math.max(item.minSize, 1);
  if (rows > 0 && rows * least > left) {
    throw new FormatError({
      code: 'cut-short',
      what: `${text} counts more rows than there is room for`,
      offset,
      expected: `at most ${Math.floor(left / least).toLocaleString('en')} rows in the ${left.toLocaleString('en')} bytes left`,
      found: `${rows.toLocaleString('en')} rows`,
      hint: 'The count may be damaged, or read from the wrong field.',
    });
  }
  checkRows(rows, text, offset, context);
}

function tooFew(text: string, offset: number, size: number, left: number): FormatError {
  return new FormatError({
    code: 'cut-short',
    what: `${text} is larger than there is room for`,
    offset,
    expected: `${size.toLocaleString('en')} bytes`,
    found: `${left.toLocaleString('en')} left`,
  });
}

/** A list without items. */
export const EMPTY_LIST: ListValue = { length: 0, at: () => undefined };
