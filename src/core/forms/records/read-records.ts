/** Files of records, read: JSON, JSON lines, CSV and INI. */
import { parse } from 'csv-parse/sync';
import { parseTree, printParseErrorCode, type ParseError } from 'jsonc-parser';
import { FormatError } from '../../faults';
import { recordFormat, rowsIn, tableOfPath, type RecordRow, type Scalar } from './records';

/**
 * @param path gives the format by its ending, and the table
 * @throws FormatError `wrong-kind` with the line of what is wrong
 */
export function readRecords(bytes: Uint8Array, path: string): RecordRow[] {
  const text = textOf(bytes, path);
  const table = tableOfPath(path);
  switch (recordFormat(path)) {
    case 'json':
      return [...rowsIn(parseJson(text, path), table)];
    case 'json-lines':
      return text.split(/\r?\n/).flatMap((line, i) => {
        if (line.trim() === '') return [];
        return [...rowsIn(parseJson(line, path, i), table, [i])];
      });
    case 'csv':
      return csvRows(text, path, table);
    case 'ini':
      return iniRows(text, table);
    case undefined:
      return [];
  }
}

export function textOf(bytes: Uint8Array, path: string): string {
  try {
    return new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
  } catch (error) {
    throw new FormatError(
      { code: 'wrong-kind', file: path, expected: 'text in UTF-8', found: 'bytes that are none' },
      { cause: error },
    );
  }
}

/** @param line of the file it is in, from 0 */
function parseJson(text: string, path: string, line = 0): unknown {
  try {
    return JSON.parse(text.replace(/^\ufeff/, '')) as unknown;
  } catch (error) {
    const errors: ParseError[] = [];
    parseTree(text, errors);
    const [first] = errors;
    const before = text.slice(0, first?.offset ?? 0);
    throw new FormatError(
      {
        code: 'wrong-kind',
        file: path,
        line: line + before.split('\n').length,
        expected: 'JSON',
        found:
          first === undefined
            ? (error as Error).message
            : `${printParseErrorCode(first.error)} at ${JSON.stringify(text.slice(first.offset, first.offset + 20))}`,
      },
      { cause: error },
    );
  }
}

/** What parts the cells of a table: whatever its first line has most of. */
export function delimiterOf(text: string): string {
  const first = text.slice(0, text.indexOf('\n') < 0 ? undefined : text.indexOf('\n'));
  const counts = [',', ';', '\t'].map((one) => [one, first.split(one).length] as const);
  return counts.reduce((best, one) => (one[1] > best[1] ? one : best))[0];
}

function csvRows(text: string, path: string, table: string): RecordRow[] {
  const delimiter = delimiterOf(text);
  let lines: string[][];
  try {
    lines = parse(text, { bom: true, delimiter, relax_column_count: true, skip_empty_lines: true });
  } catch (error) {
    const { lines: line, message } = error as Error & { lines?: number };
    throw new FormatError(
      { code: 'wrong-kind', file: path, ...(line === undefined ? {} : { line }), expected: 'CSV', found: message },
      { cause: error },
    );
  }
  const [head = [], ...rows] = lines;
  const twice = head.find((name, i) => head.indexOf(name) !== i);
  if (twice !== undefined)
    throw new FormatError({ code: 'wrong-kind', file: path, line: 1, what: `two columns are called ${twice}` });
  return rows.map((cells, i) => ({
    table,
    pointer: [i],
    values: Object.fromEntries(head.map((name, column) => [name, scalarOf(cells[column] ?? '')])),
  }));
}

/** Numbers are recognised by their looks where there is only text; what a number would not be written as stays text. */
export function scalarOf(text: string): Scalar {
  return /^-?(0|[1-9]\d*)(\.\d+)?$/.test(text) && Number.isFinite(Number(text)) ? Number(text) : text;
}

export const INI_LINE = /^(\s*)([^=;#[\]][^=]*?)(\s*=\s*)(.*?)(\s*)$/;

function iniRows(text: string, table: string): RecordRow[] {
  let section = '';
  return text.split(/\r?\n/).flatMap((line, i): RecordRow[] => {
    const head = /^\s*\[([^\]]*)\]/.exec(line);
    if (head !== null) section = head[1]!.trim();
    const found = INI_LINE.exec(line);
    if (head !== null || found === null) return [];
    return [{ table, pointer: [i], values: { section, key: found[2]!, value: scalarOf(found[4]!) } }];
  });
}
