/** Changing one value of a file of records: everything else stays as it is written. */
import { parse } from 'csv-parse/sync';
import { stringify } from 'csv-stringify/sync';
import { findNodeAtLocation, parseTree, type Node } from 'jsonc-parser';
import { FormatError } from '../../faults';
import { delimiterOf, INI_LINE } from './read-records';
import { cellPointer, recordFormat, type CellValue, type Pointer } from './records';

/**
 * @param typed as someone typed it; it has to be of the kind the value is of, and goes in as it is written
 * @throws FormatError `wrong-kind` when it is of another kind, `no-such-entry` when the cell is not there
 */
export function withCell(text: string, path: string, row: Pointer, column: string, typed: string): string {
  switch (recordFormat(path)) {
    case 'json':
      return jsonWith(text, path, cellPointer(row, column), typed);
    case 'json-lines': {
      const [line, ...rest] = row;
      const lines = text.split('\n');
      const own = lines[Number(line)];
      if (own === undefined) throw missing(path, column);
      lines[Number(line)] = jsonWith(own, path, cellPointer(rest, column), typed);
      return lines.join('\n');
    }
    case 'csv':
      return csvWith(text, path, Number(row[0]), column, typed);
    case 'ini':
      return iniWith(text, path, Number(row[0]), column, typed);
    case undefined:
      throw missing(path, column);
  }
}

const missing = (file: string, field: string) =>
  new FormatError({ code: 'no-such-entry', file, field, what: 'the value is not there any more' });

function jsonWith(text: string, path: string, pointer: Pointer, typed: string): string {
  const bom = text.startsWith('\ufeff') ? 1 : 0;
  const tree = parseTree(text.slice(bom));
  const node = tree && findNodeAtLocation(tree, [...pointer]);
  const field = pointer.join('.');
  if (node === undefined) throw missing(path, field);
  const fresh = jsonText(node, text.slice(bom + node.offset, bom + node.offset + node.length), typed, path, field);
  return text.slice(0, bom + node.offset) + fresh + text.slice(bom + node.offset + node.length);
}

const NUMBER = /^-?(0|[1-9]\d*)(\.\d+)?([eE][-+]?\d+)?$/;

function jsonText(node: Node, found: string, typed: string, file: string, field: string): string {
  const wrong = (expected: string) =>
    new FormatError({ code: 'wrong-kind', file, field, what: 'the value is of another kind', expected, found: typed });
  switch (node.type) {
    case 'string':
      return JSON.stringify(typed);
    case 'number': {
      const whole = /^-?\d+$/.test(found);
      if (!NUMBER.test(typed.trim())) throw wrong(whole ? 'a whole number' : 'a number');
      if (whole && !/^-?\d+$/.test(typed.trim())) throw wrong('a whole number');
      return typed.trim();
    }
    case 'boolean':
      if (!/^(true|false)$/.test(typed.trim())) throw wrong('true or false');
      return typed.trim();
    case 'array': {
      const kinds = new Set(node.children?.map(({ type }) => type));
      const items = parseTree(typed);
      if (items?.type !== 'array' || JSON.stringify(safeParse(typed)) === undefined)
        throw wrong('a list, such as [1, 2, 3]');
      const strange = items.children?.find(({ type }) => kinds.size > 0 && !kinds.has(type));
      if (strange !== undefined) throw wrong(`a list of ${[...kinds].join(' and ')} values`);
      return inSameLines(found, items, typed);
    }
    default:
      if (safeParse(typed) === undefined) throw wrong('a value such as 12, "text" or null');
      return typed.trim();
  }
}

function safeParse(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    return undefined;
  }
}

/** A list that is in lines of its own goes on to. */
function inSameLines(found: string, items: Node, typed: string): string {
  const indent = /\[\s*\n([ \t]*)/.exec(found)?.[1];
  const parts = (items.children ?? []).map(({ offset, length }) => typed.slice(offset, offset + length));
  if (indent === undefined || parts.length === 0) return `[${parts.join(', ')}]`;
  const end = /\n([ \t]*)\]$/.exec(found)?.[1] ?? '';
  return `[\n${parts.map((part) => `${indent}${part}`).join(',\n')}\n${end}]`;
}

/** Only the line of the row is written again, with the quotes it needs. */
function csvWith(text: string, path: string, row: number, column: string, typed: string): string {
  const delimiter = delimiterOf(text);
  const records = parse(text, {
    ...{ bom: true, delimiter, relax_column_count: true, skip_empty_lines: true, raw: true },
  }) as unknown as { record: string[]; raw: string }[];
  const at = records[0]?.record.indexOf(column) ?? -1;
  const own = records[row + 1];
  if (at < 0 || own === undefined) throw missing(path, column);
  const cells = [...own.record];
  cells[at] = typed;
  const ending = /[\r\n]*$/.exec(own.raw)![0];
  const fresh = stringify([cells], { delimiter }).replace(/\n$/, '') + ending;
  let start = text.startsWith('\ufeff') ? 1 : 0;
  for (const { raw } of records.slice(0, row + 1)) start = text.indexOf(raw, start) + raw.length;
  start = text.indexOf(own.raw, start);
  return text.slice(0, start) + fresh + text.slice(start + own.raw.length);
}

function iniWith(text: string, path: string, line: number, column: string, typed: string): string {
  const lines = text.split('\n');
  const found = INI_LINE.exec(lines[line]?.replace(/\r$/, '') ?? '');
  if (found === null || column !== 'value') throw missing(path, column);
  const [, indent, key, between, , rest] = found;
  lines[line] = `${indent}${key}${between}${typed}${rest}${lines[line]!.endsWith('\r') ? '\r' : ''}`;
  return lines.join('\n');
}

/** A value as it is typed. */
export const typedText = (value: CellValue): string =>
  typeof value === 'string' ? value : typeof value === 'object' ? JSON.stringify(value) : String(value);
