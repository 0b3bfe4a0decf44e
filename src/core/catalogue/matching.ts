/** Which rows fit the terms of a search. */
import { KINDS } from '../game';
import { lowerBound, NAMED, WINS, type Columns } from './columns';
import type { Comparison, PathSet, Term } from './search-line';

export interface MatchOrder {
  readonly terms: readonly Term[];
  /** Rows that are looked at, from and to. */
  readonly range: readonly [from: number, to: number];
  /** One archive alone, whoever wins; otherwise only what wins. */
  readonly archive: number | undefined;
  readonly archivePaths: ReadonlyMap<number, string>;
  /** The paths of each set that a term asks for, by set and text, as in `label:door`. */
  readonly sets: Readonly<Record<string, readonly string[]>>;
}

/** The name under which the paths of a set are handed over. */
export const setName = (set: PathSet, text: string): string => `${set}:${text}`;

/** Rows between `from` and `to` that still fit have a 1. */
interface Rest {
  readonly from: number;
  readonly to: number;
  readonly fits: Uint8Array;
}

/** When no more than one row in so many is left, each is looked at by itself. */
const FEW = 32;

/** @returns the rows that fit, in order */
export function matchRows(columns: Columns, order: MatchOrder): Uint32Array {
  const [from, to] = order.range;
  const rest: Rest = { from, to, fits: new Uint8Array(columns.count) };
  const { flags, archive: archives } = columns;
  if (order.archive === undefined) for (let row = from; row < to; row++) rest.fits[row] = flags[row]! & WINS;
  else for (let row = from; row < to; row++) rest.fits[row] = archives[row] === order.archive ? 1 : 0;
  // What a column tells is asked first: it leaves fewer paths to look at.
  const inPaths = (term: Term) => term.is === 'text' || term.is === 'glob';
  for (const term of order.terms) if (!inPaths(term)) keepByColumn(columns, rest, term, order);
  for (const term of order.terms) if (inPaths(term)) keepByPath(columns, rest, term);
  return rowsLeft(rest);
}

function rowsLeft({ from, to, fits }: Rest): Uint32Array {
  let count = 0;
  for (let row = from; row < to; row++) count += fits[row]!;
  const rows = new Uint32Array(count);
  let place = 0;
  for (let row = from; row < to; row++) if (fits[row] === 1) rows[place++] = row;
  return rows;
}

function keepByColumn(columns: Columns, rest: Rest, term: Term, { archivePaths, sets }: MatchOrder): void {
  const { kind, size, flags, archive } = columns;
  const { from, to, fits } = rest;
  const wanted = term.minus ? 0 : 1;
  switch (term.is) {
    case 'kind': {
      const number = KINDS.indexOf(term.kind);
      for (let row = from; row < to; row++) if ((kind[row] === number ? 1 : 0) !== wanted) fits[row] = 0;
      return;
    }
    case 'size': {
      const test = sizeTest(size, term.comparison, term.bytes);
      for (let row = from; row < to; row++) if ((test(row) ? 1 : 0) !== wanted) fits[row] = 0;
      return;
    }
    case 'archive': {
      const fitting = new Set<number>();
      for (const [id, path] of archivePaths) if (path.toLowerCase().includes(term.text)) fitting.add(id);
      for (let row = from; row < to; row++) if ((fitting.has(archive[row]!) ? 1 : 0) !== wanted) fits[row] = 0;
      return;
    }
    case 'nameless':
      for (let row = from; row < to; row++) if (((flags[row]! & NAMED) === 0 ? 1 : 0) !== wanted) fits[row] = 0;
      return;
    case 'set': {
      const marks = new Uint8Array(columns.count);
      for (const row of rowsOf(columns, sets[setName(term.set, term.text)] ?? [])) marks[row] = 1;
      for (let row = from; row < to; row++) if (marks[row] !== wanted) fits[row] = 0;
    }
  }
}

function keepByPath(columns: Columns, rest: Rest, term: Term): void {
  if (term.is !== 'text' && term.is !== 'glob') return;
  const { folded, pathAt } = columns;
  const { from, to, fits } = rest;
  const pattern = Buffer.from(term.is === 'glob' ? term.pattern : '');
  const needle = Buffer.from(term.is === 'glob' ? longestLiteral(term.pattern) : term.text);
  const wanted = term.minus ? 0 : 1;
  const isWhole = (row: number) => term.is === 'text' || fitsGlob(folded, pathAt[row]!, pathAt[row + 1]!, pattern);
  let left = 0;
  for (let row = from; row < to; row++) left += fits[row]!;
  if (left < (to - from) / FEW) {
    for (let row = from; row < to; row++) {
      if (fits[row] === 0) continue;
      const has = (needle.length === 0 || contains(folded, pathAt[row]!, pathAt[row + 1]!, needle)) && isWhole(row);
      if ((has ? 1 : 0) !== wanted) fits[row] = 0;
    }
    return;
  }
  const marks = new Uint8Array(columns.count);
  if (needle.length === 0) for (let row = from; row < to; row++) marks[row] = isWhole(row) ? 1 : 0;
  else eachRowWith(columns, needle, [from, to], (row) => (marks[row] = fits[row] === 1 && isWhole(row) ? 1 : 0));
  for (let row = from; row < to; row++) if (marks[row] !== wanted) fits[row] = 0;
}

const longestLiteral = (pattern: string) =>
  pattern.split(/[*?]/).reduce((longest, part) => (part.length > longest.length ? part : longest), '');

/** After so many hits it is clear how common a needle is; common is one in so many rows. */
const SAMPLE = 500;
const COMMON = 2;

/** Calls `found` with each row whose path has the needle. */
function eachRowWith(
  { folded, pathAt }: Columns,
  needle: Buffer,
  [from, to]: readonly [number, number],
  found: (row: number) => void,
): void {
  let row = from;
  let at = pathAt[from]!;
  for (let hits = 0; row < to;) {
    // Where every few paths have it, looking at each is quicker than being told of each.
    if (hits === SAMPLE && row - from < SAMPLE * COMMON) {
      for (; row < to; row++) if (contains(folded, pathAt[row]!, pathAt[row + 1]!, needle)) found(row);
      return;
    }
    at = folded.indexOf(needle, at);
    if (at < 0) return;
    // Hits are near each other where there are many: steps first, then halves.
    for (let steps = 0; steps < 8 && row < to && pathAt[row + 1]! <= at; steps++) row++;
    if (row < to && pathAt[row + 1]! <= at) row = rowAt(pathAt, at, row + 1, to);
    if (row >= to) return;
    if (at + needle.length > pathAt[row + 1]!) {
      // Half in this path and half in the next.
      at++;
      continue;
    }
    found(row);
    hits++;
    row++;
    at = pathAt[row]!;
  }
}

/** The row whose path holds a place. */
function rowAt(pathAt: Uint32Array, at: number, from: number, to: number): number {
  let low = from;
  let high = to;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (pathAt[middle + 1]! <= at) low = middle + 1;
    else high = middle;
  }
  return low;
}

function sizeTest(size: Float64Array, comparison: Comparison, bytes: number): (row: number) => boolean {
  switch (comparison) {
    case '<':
      return (row) => size[row]! < bytes;
    case '<=':
      return (row) => size[row]! <= bytes;
    case '>':
      return (row) => size[row]! > bytes;
    case '=':
      return (row) => size[row] === bytes;
    default:
      return (row) => size[row]! >= bytes;
  }
}

/** All rows of each path: several archives may hold it. */
export function rowsOf(columns: Columns, paths: readonly string[]): Set<number> {
  const rows = new Set<number>();
  for (const path of paths) {
    const bytes = Buffer.from(path);
    const { paths: all, pathAt, count } = columns;
    for (
      let row = lowerBound(columns, bytes);
      row < count && all.compare(bytes, 0, bytes.length, pathAt[row], pathAt[row + 1]) === 0;
      row++
    )
      rows.add(row);
  }
  return rows;
}

function contains(bytes: Uint8Array, from: number, to: number, needle: Uint8Array): boolean {
  const first = needle[0];
  const last = to - needle.length;
  for (let at = from; at <= last; at++) {
    if (bytes[at] !== first) continue;
    let i = 1;
    while (i < needle.length && bytes[at + i] === needle[i]) i++;
    if (i === needle.length) return true;
  }
  return false;
}

const STAR = 0x2a;
const ONE = 0x3f;

/** `*` stands for any bytes and `?` for one character; the whole of the text has to fit. */
export function fitsGlob(bytes: Uint8Array, from: number, to: number, pattern: Uint8Array): boolean {
  let at = from;
  let i = 0;
  let star = -1;
  let mark = 0;
  while (at < to) {
    if (pattern[i] === STAR) {
      star = i++;
      mark = at;
    } else if (pattern[i] === ONE) {
      i++;
      at = nextCharacter(bytes, at, to);
    } else if (pattern[i] === bytes[at]) {
      i++;
      at++;
    } else if (star >= 0) {
      // The star before takes one more.
      i = star + 1;
      at = ++mark;
    } else return false;
  }
  while (pattern[i] === STAR) i++;
  return i === pattern.length;
}

function nextCharacter(bytes: Uint8Array, at: number, to: number): number {
  let next = at + 1;
  while (next < to && (bytes[next]! & 0xc0) === 0x80) next++;
  return next;
}
