/** Which rows fit the terms of a search. */
import { KINDS } from '../game';
import { letterOf, lettersOf, lowerBound, NAMED, OTHER_LETTER, WINS, type Columns } from './columns';
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

/** Whether the row fits a term. */
type Test = (row: number) => boolean;

/** Rows beyond which nothing can fit: what a wider search has found. */
export interface KnownRows {
  readonly rows: Uint32Array;
  readonly byPath: boolean;
}

/**
 * @param room as many places as there are rows, to work in; nothing of it is kept
 * @returns the rows that fit, in the order of their paths, or of `known`. A part of `room`
 */
export function matchRows(columns: Columns, order: MatchOrder, room: Uint32Array, known?: KnownRows): Uint32Array {
  const { rows: first, byPath } = known ?? { rows: listedOf(columns, order, room), byPath: true };
  // What leaves the fewest for the least work goes first.
  const terms = [...order.terms].sort((a, b) => cost(a) - cost(b));
  return terms.reduce(
    (rows, term) =>
      term.is === 'text'
        ? rowsWith(columns, Buffer.from(term.text), !term.minus, { rows, byPath }, room)
        : rowsThat(testOf(columns, term, order), !term.minus, rows, room),
    first,
  );
}

/** The rows that are listed at all: of one archive, or those that win. */
function listedOf(
  { flags, archive: archives }: Columns,
  { range: [from, to], archive }: MatchOrder,
  room: Uint32Array,
): Uint32Array {
  let found = 0;
  // An imported name is looked up at each use: not a million times.
  const wins = WINS;
  if (archive === undefined) {
    for (let row = from; row < to; row++) if ((flags[row]! & wins) !== 0) room[found++] = row;
  } else for (let row = from; row < to; row++) if (archives[row] === archive) room[found++] = row;
  return room.subarray(0, found);
}

/**
 * What is left to ask of the rows that a search has found, to have those of another; undefined when they may not be all of
 * them.
 */
export function termsBeyond(terms: readonly Term[], wider: readonly Term[]): readonly Term[] | undefined {
  const same = (a: Term, b: Term) => JSON.stringify(a) === JSON.stringify(b);
  // The letters of a pattern stand in all that fits it.
  const lettersOf = (term: Term) =>
    term.minus ? [] : term.is === 'text' ? [term.text] : term.is === 'glob' ? term.pattern.split(/[*?]/) : [];
  const holds = (wide: Term, term: Term) =>
    same(wide, term) ||
    (wide.is === 'text' && !wide.minus && lettersOf(term).some((letters) => letters.includes(wide.text)));
  if (!wider.every((wide) => terms.some((term) => holds(wide, term)))) return undefined;
  return terms.filter((term) => !wider.some((wide) => same(wide, term)));
}

/** The cheapest to ask and the rarest to hold come first. */
function cost(term: Term): number {
  if (term.is !== 'text' && term.is !== 'glob') return 0;
  if (term.is === 'glob') return 200;
  return (term.minus ? 300 : 100) - Math.min(90, term.text.length);
}

/** `room` may be what `rows` is a part of: each place is read before it is written. */
function rowsThat(test: Test, wanted: boolean, rows: Uint32Array, room: Uint32Array): Uint32Array {
  let kept = 0;
  for (let i = 0; i < rows.length; i++) if (test(rows[i]!) === wanted) room[kept++] = rows[i]!;
  return room.subarray(0, kept);
}

/** Asks of a row whether it fits a term that is no text, whatever its sign. */
function testOf(columns: Columns, term: Exclude<Term, { is: 'text' }>, { archivePaths, sets }: MatchOrder): Test {
  const { kind, size, flags, archive, folded, pathAt } = columns;
  switch (term.is) {
    case 'kind': {
      const number = KINDS.indexOf(term.kind);
      return (row) => kind[row] === number;
    }
    case 'size':
      return sizeTest(size, term.comparison, term.bytes);
    case 'archive': {
      const fitting = new Set<number>();
      for (const [id, path] of archivePaths) if (path.toLowerCase().includes(term.text)) fitting.add(id);
      return (row) => fitting.has(archive[row]!);
    }
    case 'nameless': {
      const named = NAMED;
      return (row) => (flags[row]! & named) === 0;
    }
    case 'set': {
      const marks = new Uint8Array(columns.count);
      for (const row of rowsOf(columns, sets[setName(term.set, term.text)] ?? [])) marks[row] = 1;
      return (row) => marks[row] === 1;
    }
    case 'glob': {
      const glob = compileGlob(term.pattern);
      return (row) => fitsGlob(folded, pathAt[row]!, pathAt[row + 1]!, glob);
    }
  }
}

/** Of fewer rows than one in so many, each is looked at by itself. */
const FEW = 8;
/** After so many hits it is clear how common a needle is; common is one in so many rows. */
const SAMPLE = 500;
const COMMON = 6;

/** Those of some rows whose paths have the needle, or those that have not. `room` as for {@link rowsThat}. */
function rowsWith(
  { folded, pathAt, count, letters }: Columns,
  needle: Buffer,
  wanted: boolean,
  { rows, byPath }: KnownRows,
  room: Uint32Array,
): Uint32Array {
  const [low, high] = lettersOf(needle);
  // Of one character that has a bit of its own the letters say all.
  if (needle.length === 1 && letterOf(needle[0]!) !== OTHER_LETTER)
    return rowsThat((row) => ((letters[row * 2]! & low) | (letters[row * 2 + 1]! & high)) !== 0, wanted, rows, room);
  let kept = 0;
  let i = 0;
  if (byPath && rows.length > count / FEW) {
    let at = 0;
    // Where every few paths have it, looking at each is quicker than being told of each.
    for (let hits = 0; i < rows.length && (hits < SAMPLE || i > hits * COMMON); hits++) {
      const hit = nextHit(folded, pathAt, needle, rows, i, at);
      if (!wanted) while (i < hit) room[kept++] = rows[i++]!;
      else if (hit < rows.length) room[kept++] = rows[hit]!;
      i = hit + 1;
      at = pathAt[(rows[hit] ?? count - 1) + 1]!;
    }
  }
  for (; i < rows.length; i++) {
    const row = rows[i]!;
    const may = (letters[row * 2]! & low) === low && (letters[row * 2 + 1]! & high) === high;
    if ((may && contains(folded, pathAt[row]!, pathAt[row + 1]!, needle)) === wanted) room[kept++] = row;
  }
  return room.subarray(0, kept);
}

/** The place, from `i` on, of the next of some rows whose path has the needle; as many as there are rows when none has. */
function nextHit(
  folded: Buffer,
  pathAt: Uint32Array,
  needle: Buffer,
  rows: Uint32Array,
  i: number,
  from: number,
): number {
  for (let at = Math.max(from, pathAt[rows[i]!]!); ; at++) {
    at = folded.indexOf(needle, at);
    if (at < 0) return rows.length;
    // Hits are near each other where there are many: steps first, then halves.
    for (let steps = 0; steps < 8 && i < rows.length && pathAt[rows[i]! + 1]! <= at; steps++) i++;
    if (i < rows.length && pathAt[rows[i]! + 1]! <= at) i = placeOf(pathAt, at, rows, i + 1);
    if (i >= rows.length) return i;
    const row = rows[i]!;
    // Otherwise it is in a path before this one that is not asked for, or half in this and half in the next.
    if (at >= pathAt[row]! && at + needle.length <= pathAt[row + 1]!) return i;
  }
}

/** The place of the first of some rows whose path ends behind a place in all paths. */
function placeOf(pathAt: Uint32Array, at: number, rows: Uint32Array, from: number): number {
  let low = from;
  let high = rows.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (pathAt[rows[middle]! + 1]! <= at) low = middle + 1;
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
  const { length } = needle;
  const last = to - length;
  for (let at = from; at <= last; at++) {
    if (bytes[at] !== first) continue;
    let i = 1;
    while (i < length && bytes[at + i] === needle[i]) i++;
    if (i === length) return true;
  }
  return false;
}

const ONE = '?'.charCodeAt(0);

/** A pattern taken apart at its stars. */
export interface Glob {
  /** What the text begins with, up to the first star. */
  readonly head: Uint8Array;
  /** What has to follow somewhere, in this order, between one star and the next. */
  readonly middle: readonly Uint8Array[];
  /** What the text ends with; null without a star, when the head is all there is. */
  readonly tail: Uint8Array | null;
}

/** `*` stands for any bytes and `?` for one character (UTF-8); the whole of a text has to fit. */
export function compileGlob(pattern: string): Glob {
  const [head, ...rest] = pattern.split('*').map((part) => Buffer.from(part));
  const tail = rest.pop() ?? null;
  return { head: head!, middle: rest.filter((part) => part.length > 0), tail };
}

/** The tail is asked before what lies between: most texts that do not fit end otherwise. */
export function fitsGlob(bytes: Uint8Array, from: number, to: number, { head, middle, tail }: Glob): boolean {
  const start = startOf(bytes, from, to, tail);
  if (start < 0) return false;
  let at = endOf(bytes, from, start, head);
  if (at < 0) return false;
  if (tail === null) return at === to;
  for (const part of middle) {
    let end = -1;
    for (const first = part[0]!; at < start && end < 0; at++)
      if (first === ONE || bytes[at] === first) end = endOf(bytes, at, start, part);
    if (end < 0) return false;
    at = end;
  }
  return true;
}

/** Where a part ends that begins at `at`; -1 when it is not there. */
function endOf(bytes: Uint8Array, at: number, to: number, part: Uint8Array): number {
  for (let i = 0; i < part.length; i++) {
    if (at >= to) return -1;
    if (part[i] === ONE) {
      at++;
      while (at < to && isInner(bytes[at]!)) at++;
    } else if (bytes[at++] !== part[i]) return -1;
  }
  return at;
}

/** Where a part begins that ends at `to`; -1 when it is not there. */
function startOf(bytes: Uint8Array, from: number, to: number, part: Uint8Array | null): number {
  if (part === null) return to;
  let at = to;
  for (let i = part.length - 1; i >= 0; i--) {
    if (at <= from) return -1;
    at--;
    if (part[i] === ONE) while (at > from && isInner(bytes[at]!)) at--;
    else if (bytes[at] !== part[i]) return -1;
  }
  return at;
}

/** Whether a byte goes on with a character of UTF-8 that began before it. */
const isInner = (byte: number) => (byte & 0xc0) === 0x80;
