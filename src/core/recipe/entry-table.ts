import { FormatError } from '../faults';
import type { EntriesRule, Method } from './model';
import type { Column, Table } from './table';
import type { Scope, Value } from './value';
import { showValue, wholeNumber } from './value';

/** All entries of an archive as columns, in the order of their rows. */
export interface EntryTable {
  readonly count: number;
  /** The path as the archive has it; not yet made safe for a file system. */
  path(entry: number): string;
  /** Offset of the stored bytes in the file. */
  at(entry: number): number;
  /** Length of the stored bytes. */
  stored(entry: number): number;
  /** Length of the plain bytes; NaN when only unpacking tells. */
  size(entry: number): number;
  method(entry: number): Method;
  /** The row in {@link rows} that describes the entry. */
  row(entry: number): number;
  readonly rows: Table;
}

/**
 * Works out where every entry lies. Places are not checked against the file here: an archive with one bad row still
 * opens, and reading that entry says what is wrong.
 */
export function readEntryTable(rule: EntriesRule, rows: Table, first: number, count: number, scope: Scope): EntryTable {
  const ats = new Float64Array(count);
  const storeds = new Float64Array(count);
  const sizes = new Float64Array(count);
  const methods: Method[] = rule.methods.length > 0 ? new Array<Method>(count) : [];
  const row = rows.row(0);
  const whole = (value: Value, what: string, entry: number): number => {
    try {
      return wholeNumber(value, what);
    } catch (error) {
      throw error instanceof FormatError
        ? error.with({ offset: rows.start(first + entry), found: showValue(value) })
        : error;
    }
  };
  scope.row = row;
  for (let entry = 0; entry < count; entry++) {
    row.row = first + entry;
    ats[entry] = whole(rule.at.evaluate(scope), 'the offset of an entry', entry);
    storeds[entry] = whole(rule.stored.evaluate(scope), 'the stored size of an entry', entry);
    methods[entry] = rule.methodOf(scope);
    sizes[entry] =
      rule.size === undefined
        ? isRaw(rule, methods[entry])
          ? storeds[entry]!
          : NaN
        : whole(rule.size.evaluate(scope), 'the size of an entry', entry);
  }
  scope.row = undefined;
  const pathColumn: Column | undefined =
    rule.path.rowField === undefined ? undefined : rows.columns[rule.path.rowField];
  return {
    count,
    rows,
    path: (entry) => {
      if (pathColumn !== undefined) return asPath(pathColumn.get(first + entry));
      const own: Scope = { ...scope, row: rows.row(first + entry) };
      return asPath(rule.path.evaluate(own));
    },
    at: (entry) => ats[entry]!,
    stored: (entry) => storeds[entry]!,
    size: (entry) => sizes[entry]!,
    method: (entry) => methods[entry]!,
    row: (entry) => first + entry,
  };
}

function isRaw(rule: EntriesRule, method: Method): boolean {
  return rule.stepsOf(method)?.length === 0;
}

function asPath(value: Value): string {
  if (typeof value === 'string') return value;
  throw new FormatError({ code: 'bad-text', what: 'the path of an entry is not a text', found: showValue(value) });
}
