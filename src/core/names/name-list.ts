/** Name lists: a path a line, or CSV with the path in one of its columns. */

export interface ListedName {
  readonly path: string;
  /** 1-based line of the list. */
  readonly line: number;
  /** The hash the list gives for it, as it is there. */
  readonly hash: string | undefined;
}

/** Why a line is no name. */
export type NoNameReason = 'empty' | 'too-long' | 'control-characters' | 'not-utf-8';

/** A line that is no name. */
export interface OddLine {
  readonly line: number;
  readonly reason: NoNameReason;
}

const MAX_NAME = 1_000;

/**
 * Names of a list; empty lines and lines that begin with `#` are skipped. A line that cannot be a name is reported to
 * `odd` and skipped as well: one bad line is no reason to lose the others.
 */
export function* namesInList(text: string, odd: (line: OddLine) => void = () => {}): Generator<ListedName> {
  let line = 0;
  let pathColumn: number | undefined;
  for (const raw of linesOf(text)) {
    line++;
    const trimmed = raw.trim();
    if (trimmed === '' || trimmed.startsWith('#')) continue;
    const columns = columnsOf(trimmed);
    if (line === 1 && columns.length > 1) {
      const header = columns.findIndex((column) => /^(path|name|file|filename)$/i.test(column));
      if (header >= 0) {
        pathColumn = header;
        continue;
      }
    }
    const at = columns.length === 1 ? 0 : (pathColumn ?? likeliest(columns));
    const path = columns[at] ?? '';
    const reason = reasonNoName(path);
    if (reason !== undefined) odd({ line, reason });
    else yield { path, line, hash: columns.find((column, i) => i !== at && isHash(column)) };
  }
}

/** Only the paths. */
export function* parseNameList(text: string): Generator<string> {
  for (const { path } of namesInList(text)) yield path;
}

function* linesOf(text: string): Generator<string> {
  let from = text.startsWith('\ufeff') ? 1 : 0;
  while (from < text.length) {
    const end = text.indexOf('\n', from);
    yield end < 0 ? text.slice(from) : text.slice(from, end);
    from = end < 0 ? text.length : end + 1;
  }
}

/** Columns of a line of CSV (RFC 4180) with commas, semicolons or tabs; quotes may hold these. */
function columnsOf(line: string): string[] {
  if (!line.includes('"')) return line.split(/[,;\t]/).map((column) => column.trim());
  return [...line.matchAll(/(?:^|[,;\t])\s*(?:"((?:[^"]|"")*)"?|([^,;\t]*))/g)].map(([, quoted, plain]) =>
    quoted === undefined ? plain!.trim() : quoted.replaceAll('""', '"'),
  );
}

/** Of several columns, the one that looks most like a path. */
function likeliest(columns: readonly string[]): number {
  const withFolder = columns.findIndex((column) => /[\\/]/.test(column));
  if (withFolder >= 0) return withFolder;
  const withEnding = columns.findIndex((column) => /\.[A-Za-z0-9]{1,8}$/.test(column));
  return withEnding >= 0 ? withEnding : columns.length - 1;
}

function isHash(text: string): boolean {
  return /^(0x)?[0-9a-f]{4,128}$/i.test(text);
}

function reasonNoName(path: string): NoNameReason | undefined {
  if (path === '') return 'empty';
  if (path.length > MAX_NAME) return 'too-long';
  if (/[\u0000-\u001f\u007f]/.test(path)) return 'control-characters';
  if (path.includes('\ufffd')) return 'not-utf-8';
  return undefined;
}
