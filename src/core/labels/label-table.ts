/** Labels as a table: a path or a number, and what someone noted on it. CSV by RFC 4180. */
import { parse } from 'csv-parse/sync';
import { stringify } from 'csv-stringify/sync';
import { FaultError } from '../faults';

export interface Labelled {
  readonly path: string;
  readonly text: string;
}

/** A row of a table that someone brings. */
export interface LabelRow {
  /** A path, a name, or a number as text. */
  readonly of: string;
  readonly text: string;
  /** 1-based line of the file. */
  readonly line: number;
}

export const MAX_LABEL = 200;
const MOST_ROWS = 200_000;

export function writeLabels(labels: readonly Labelled[]): string {
  return stringify([['path', 'label'], ...labels.map(({ path, text }) => [path, text])], { record_delimiter: '\r\n' });
}

/**
 * Rows of two columns or more: the first says what, the second what it is called. A first row of headings is skipped,
 * and so are rows without a label. Commas, semicolons and tabs part columns.
 *
 * @throws FaultError `invalid-request` with the line when it is no such table, `limit-reached` when it is too long
 */
export function readLabels(table: string): LabelRow[] {
  const first = table.slice(0, table.indexOf('\n') + 1 || table.length);
  const delimiter = [',', ';', '\t'].find((one) => first.includes(one)) ?? ',';
  const records = parsed(table, delimiter);
  if (records.length > MOST_ROWS)
    throw new FaultError({
      code: 'limit-reached',
      what: 'the table is too long',
      limit: `rows of a table of labels, ${MOST_ROWS.toLocaleString('en')}`,
      hint: 'Bring it in parts.',
    });
  const rows: LabelRow[] = [];
  for (const [i, { record, info }] of records.entries()) {
    const [of = '', label = ''] = record;
    if (i === 0 && /^(path|name|file|number|no|id|cue)$/i.test(of.trim())) continue;
    if (of.trim() === '' || label.trim() === '') continue;
    const text = label.trim();
    if (text.length > MAX_LABEL)
      throw new FaultError({
        code: 'invalid-request',
        what: 'a label is too long',
        line: info.lines,
        expected: `up to ${MAX_LABEL} characters`,
        found: text.length.toLocaleString('en'),
      });
    rows.push({ of: of.trim(), text, line: info.lines });
  }
  if (rows.length > 0) return rows;
  throw new FaultError({
    code: 'invalid-request',
    what: 'there is no label in the table',
    expected: 'rows of a path or a number, a comma, and a label',
    found: first.trim().slice(0, 60),
  });
}

function parsed(text: string, delimiter: string): { record: string[]; info: { lines: number } }[] {
  try {
    return parse(text, {
      bom: true,
      delimiter,
      relax_column_count: true,
      skip_empty_lines: true,
      info: true,
      comment: '#',
      comment_no_infix: true,
      max_record_size: 1 << 16,
      to: MOST_ROWS + 1,
    }) as never;
  } catch (error) {
    const { message, lines } = error as Error & { lines?: number };
    throw new FaultError({
      code: 'invalid-request',
      what: `the table cannot be read (${message})`,
      ...(lines === undefined ? {} : { line: lines }),
      expected: 'CSV as RFC 4180 has it',
    });
  }
}

/** True when every row speaks of a number. */
export function speaksOfNumbers(rows: readonly LabelRow[]): boolean {
  return rows.every(({ of }) => /^\d{1,9}$/.test(of));
}

export interface Matched {
  readonly labels: readonly Labelled[];
  /** Rows that fit no entry. */
  readonly unmatched: readonly LabelRow[];
}

/** Labels of rows that give a path, a name that is once, or either without its ending. */
export function matchByPath(rows: readonly LabelRow[], paths: readonly string[]): Matched {
  const known = new Map<string, string | undefined>();
  const learn = (key: string, path: string) =>
    // What represents several paths represents none.
    known.set(key.toLowerCase(), known.has(key.toLowerCase()) ? undefined : path);
  for (const path of paths) {
    const name = path.slice(path.lastIndexOf('/') + 1);
    const keys = [path, withoutEnding(path), name, withoutEnding(name)];
    for (const key of new Set(keys)) learn(key, path);
  }
  return matched(rows, ({ of }) => known.get(of.toLowerCase()));
}

/**
 * Labels of rows that give a number, for the entries of one folder. An entry's number is the last one in its name; where
 * names have none, its place in the folder.
 *
 * @param base 0 when the table counts as the entries do, 1 when it is one ahead of them
 */
export function matchByNumber(rows: readonly LabelRow[], paths: readonly string[], base: 0 | 1): Matched {
  const numbers = paths.map((path) => /(\d+)\D*$/.exec(withoutEnding(path.slice(path.lastIndexOf('/') + 1)))?.[1]);
  const counted = numbers.some((number) => number === undefined);
  const known = new Map(paths.map((path, place) => [counted ? place : Number(numbers[place]), path]));
  return matched(rows, ({ of }) => known.get(Number(of) - base));
}

function matched(rows: readonly LabelRow[], pathOf: (row: LabelRow) => string | undefined): Matched {
  const labels: Labelled[] = [];
  const unmatched: LabelRow[] = [];
  for (const row of rows) {
    const path = pathOf(row);
    if (path === undefined) unmatched.push(row);
    else labels.push({ path, text: row.text });
  }
  return { labels, unmatched };
}

const withoutEnding = (name: string) => name.replace(/\.[^./]*$/, '');
