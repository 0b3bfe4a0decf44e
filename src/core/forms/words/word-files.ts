/** Tables of texts as files that translators know: CSV (RFC 4180), gettext PO, XLIFF and JSON. */
import { parse } from 'csv-parse/sync';
import { stringify } from 'csv-stringify/sync';
import { po } from 'gettext-parser';
import { FormatError } from '../../faults';
import { readXliff, writeXliff } from './xliff';
import type { WordFile } from './out-formats';
import type { WordEdit, WordRow } from './words';

/** With what a spreadsheet needs to tell UTF-8. */
const BOM = '\ufeff';

/**
 * The key of each row is in a column of its own (CSV), as context (PO) or as name (JSON); rows keep their order.
 *
 * @param locale of the texts, @param from that of their sources
 */
export function writeWords(rows: readonly WordRow[], as: WordFile, locale: string, from = ''): string {
  switch (as) {
    case 'csv':
      return (
        BOM +
        stringify(
          [['key', 'source', 'text'], ...rows.map(({ key, source, text }) => [key, source ?? '', text ?? ''])],
          { record_delimiter: '\r\n', quoted_match: /[\r\n;\t]|^\s|\s$/ },
        )
      );
    case 'json':
      return `${JSON.stringify(Object.fromEntries(rows.map(({ key, text }) => [key, text ?? ''])), null, 2)}\n`;
    case 'po':
      return writePo(rows, locale);
    case 'xliff':
      return writeXliff(rows, from, locale);
  }
}

function writePo(rows: readonly WordRow[], locale: string): string {
  const translations: Record<string, Record<string, { msgctxt: string; msgid: string; msgstr: string[] }>> = {};
  for (const { key, source, text } of rows) {
    // An empty source would be the header of the file.
    const msgid = source === null || source === '' ? key : source;
    translations[key] = { [msgid]: { msgctxt: key, msgid, msgstr: [text ?? ''] } };
  }
  const headers = {
    'Content-Type': 'text/plain; charset=utf-8',
    'Content-Transfer-Encoding': '8bit',
    Language: locale,
  };
  return po.compile({ charset: 'utf-8', headers, translations }, { foldLength: 0 }).toString('utf8') + '\n';
}

/** What a file of texts holds. */
export interface WordsRead {
  /** An empty text is no one's work yet and is left out. */
  readonly edits: readonly WordEdit[];
  /** Keys that are in it more than once: no one knows which text is meant, and none is taken. */
  readonly doubled: readonly string[];
  /** The language that the file says its texts are in. */
  readonly locale: string | undefined;
}

/** @throws FormatError `wrong-kind` with the line, for a file that cannot be read */
export function readWords(bytes: Uint8Array, fileName: string): WordsRead {
  const text = decoded(bytes, fileName);
  const ending = /\.(\w+)$/.exec(fileName)?.[1]?.toLowerCase() ?? '';
  const read = { po: readPo, json: readJson, xliff: readXliff, xlf: readXliff }[ending] ?? readCsv;
  const edits = read(text, fileName);
  const times = new Map<string, number>();
  for (const { key } of edits) times.set(key, (times.get(key) ?? 0) + 1);
  return {
    edits: edits.filter((edit) => edit.text !== '' && times.get(edit.key) === 1),
    doubled: [...times].filter(([, count]) => count > 1).map(([key]) => key),
    locale: localeIn(text, fileName, ending),
  };
}

/** PO and XLIFF name the language within; other files are mostly called by it, as those are that go out from here. */
function localeIn(text: string, fileName: string, ending: string): string | undefined {
  const within = {
    po: /^"Language:\s*([A-Za-z][\w@.-]*)/m,
    xliff: /\s(?:target-language|trgLang)\s*=\s*["']([A-Za-z][\w-]*)["']/,
  }[ending === 'xlf' ? 'xliff' : ending];
  if (within !== undefined) return within.exec(text)?.[1];
  return /^([a-z]{2,3}(?:[-_][A-Za-z]{2,4})?)\.\w+$/.exec(fileName)?.[1];
}

/** True when both name one language: `de` is `de-DE` as well as `de_AT`. */
export function isSameLanguage(one: string, other: string): boolean {
  const [a, b] = [one, other].map((locale) =>
    locale
      .toLowerCase()
      .replaceAll('_', '-')
      .replace(/[@.].*$/, ''),
  );
  return a === b || a!.startsWith(`${b}-`) || b!.startsWith(`${a}-`);
}

const wrong = (file: string, what: string, more: object = {}) =>
  new FormatError({ code: 'wrong-kind', file, what, ...more });

function decoded(bytes: Uint8Array, fileName: string): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    throw wrong(fileName, 'the texts are not in UTF-8', { hint: 'Save the file as UTF-8.' });
  }
}

function readCsv(text: string, fileName: string): WordEdit[] {
  let rows: string[][];
  try {
    rows = parse(text, { bom: true, delimiter: delimiterOf(text), relax_column_count: true, skip_empty_lines: true });
  } catch (error) {
    throw wrong(fileName, `the table cannot be read: ${(error as Error).message}`);
  }
  const head = (rows[0] ?? []).map((name) => name.trim().toLowerCase());
  const [key, column] = [head.indexOf('key'), head.indexOf('text')];
  if (key < 0 || column < 0)
    throw wrong(fileName, 'its first line has to name the columns', {
      expected: 'key and text, and source beside them if you like',
      found: head.join(', '),
    });
  return rows.slice(1).map((row, i) => {
    if ((row[key] ?? '') === '') throw wrong(fileName, 'a line has no key', { line: i + 2 });
    return { key: row[key]!, text: row[column] ?? '' };
  });
}

/** Spreadsheets write semicolons where the comma is in numbers: the first line shows which. */
function delimiterOf(text: string): string {
  const [head = ''] = text.split(/\r?\n/, 1);
  const times = (mark: string) => head.split(mark).length;
  return [',', ';', '\t'].reduce((most, mark) => (times(mark) > times(most) ? mark : most));
}

function readPo(text: string, fileName: string): WordEdit[] {
  let file;
  try {
    file = po.parse(text);
  } catch (error) {
    throw wrong(fileName, `the PO file cannot be read: ${(error as Error).message}`);
  }
  return Object.entries(file.translations).flatMap(([context, entries]) =>
    Object.values(entries).flatMap(({ msgid, msgstr, comments }) =>
      context === '' || msgid === '' || comments?.flag?.includes('fuzzy') === true
        ? []
        : [{ key: context, text: msgstr[0] ?? '' }],
    ),
  );
}

function readJson(text: string, fileName: string): WordEdit[] {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch (error) {
    throw wrong(fileName, `the JSON cannot be read: ${(error as Error).message}`);
  }
  if (typeof data !== 'object' || data === null || Array.isArray(data))
    throw wrong(fileName, 'it has to be one object of texts by key');
  return Object.entries(data).map(([key, value]) => {
    if (typeof value !== 'string') throw wrong(fileName, 'a text is none', { field: key, found: typeof value });
    return { key, text: value };
  });
}
