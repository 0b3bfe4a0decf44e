/** Which rows fit the terms of a search. */
import { KINDS } from '../game';
import { letterOf, lettersOf, lowerBound, NAMED, OTHER_LETTER, WINS, type Columns } from './columns';
import type { Comparison, PathSet, Term } from './search-line';
import { ONE, compileGlob, fitsGlob } from './glob';

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
  readonly places?: Places | undefined;
}

/** Where a text first is in all paths, for each of some rows: with a letter more it mostly is there too. */
export interface Places {
  readonly text: string;
  readonly at: Uint32Array;
}

/** To work in: nothing of it is kept. */
export interface Room {
  /** As many places as there are rows, each. */
  readonly rows: Uint32Array;
  readonly at: Uint32Array;
}

export interface MatchedRows {
  /** A part of the room, as the places are. */
  readonly rows: Uint32Array;
  readonly places: Places | undefined;
}

/** @returns the rows that fit, in the order of their paths, or of `known` */
export function matchRows(columns: Columns, order: MatchOrder, room: Room, known?: KnownRows): MatchedRows {
  const { byPath } = known ?? { byPath: true };
  // What leaves the fewest for the least work goes first.
  const terms = order.terms.filter((term) => !fitsAll(term)).sort((a, b) => cost(a) - cost(b));
  let rows = known?.rows ?? listedOf(columns, order, room.rows);
  let places = known?.places;
  for (const term of terms) {
    if (term.is !== 'text') {
      rows = rowsThat(testOf(columns, term, order), !term.minus, rows, room.rows);
      places = undefined;
    } else if (!term.minus && places !== undefined && term.text.startsWith(places.text)) {
      ({ rows, places } = rowsGoingOn(columns, term.text, rows, places, room));
    } else ({ rows, places } = rowsWith(columns, term, { rows, byPath }, room));
  }
  return { rows, places };
}

/** A pattern of stars alone leaves nothing out. */
const fitsAll = (term: Term): boolean => term.is === 'glob' && !term.minus && /^\*+$/.test(term.pattern);

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
  // The letters of a pattern are in all that fits it.
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
      const { tail } = glob;
      const most = tail?.length ?? 0;
      return (row) => {
        const to = pathAt[row + 1]!;
        // Most end otherwise, which shows in a few bytes: `?` represents one where that is ASCII.
        for (let i = most - 1, at = to - 1; i >= 0; i--, at--) {
          const byte = folded[at]!;
          if (tail![i] === ONE ? byte >= 0x80 : byte >= 0x80 || byte !== tail![i]) {
            if (byte < 0x80) return false;
            break;
          }
        }
        return fitsGlob(folded, pathAt[row]!, to, glob);
      };
    }
  }
}

/** Of fewer rows than one in so many, each is looked at by itself. */
const FEW = 8;

/** After so many hits it is clear how common a needle is; common is one in so many rows. */
const SAMPLE = 500;

const COMMON = 6;

/** Those of some rows whose paths have the text, or those that have not. */
function rowsWith(
  { folded, pathAt, count, letters }: Columns,
  { text, minus }: { readonly text: string; readonly minus: boolean },
  { rows, byPath }: KnownRows,
  room: Room,
): MatchedRows {
  const needle = Buffer.from(text);
  const [low, high] = lettersOf(needle);
  const { rows: kept, at: keptAt } = room;
  // Of one character that has a bit of its own the letters say all.
  if (needle.length === 1 && letterOf(needle[0]!) !== OTHER_LETTER) {
    const has = (row: number) => ((letters[row * 2]! & low) | (letters[row * 2 + 1]! & high)) !== 0;
    return { rows: rowsThat(has, !minus, rows, kept), places: undefined };
  }
  let found = 0;
  let i = 0;
  if (byPath && rows.length > count / FEW) {
    const hit: Hit = { i: 0, at: 0 };
    // Where every few paths have it, testing each is quicker than collecting each.
    for (let hits = 0; i < rows.length && (hits < SAMPLE || i > hits * COMMON); hits++) {
      nextHit(folded, pathAt, needle, rows, i, hit);
      if (minus) while (i < hit.i) kept[found++] = rows[i++]!;
      else if (hit.i < rows.length) {
        keptAt[found] = hit.at;
        kept[found++] = rows[hit.i]!;
      }
      i = hit.i + 1;
      hit.at = pathAt[(rows[hit.i] ?? count - 1) + 1]!;
    }
  }
  for (; i < rows.length; i++) {
    const row = rows[i]!;
    const may = (letters[row * 2]! & low) === low && (letters[row * 2 + 1]! & high) === high;
    const place = may ? placeIn(folded, pathAt[row]!, pathAt[row + 1]!, needle) : -1;
    if (place >= 0 === minus) continue;
    keptAt[found] = place;
    kept[found++] = row;
  }
  return {
    rows: kept.subarray(0, found),
    places: minus ? undefined : { text, at: keptAt.subarray(0, found) },
  };
}

/** The same for a text that goes on where another ended: what follows that is looked at, and the rest only where it differs. */
function rowsGoingOn(
  { folded, pathAt }: Columns,
  text: string,
  rows: Uint32Array,
  places: Places,
  { rows: kept, at: keptAt }: Room,
): MatchedRows {
  const needle = Buffer.from(text);
  const from = Buffer.byteLength(places.text);
  const { length } = needle;
  const { at } = places;
  let found = 0;
  for (let i = 0; i < rows.length; i++) {
    const row = rows[i]!;
    const end = pathAt[row + 1]!;
    let place = at[i]!;
    let same = place + length <= end;
    for (let k = from; same && k < length; k++) same = folded[place + k] === needle[k];
    if (!same) place = placeIn(folded, place + 1, end, needle);
    if (place < 0) continue;
    keptAt[found] = place;
    kept[found++] = row;
  }
  return { rows: kept.subarray(0, found), places: { text, at: keptAt.subarray(0, found) } };
}

/** The place of a row among some, and of the text in all paths. */
interface Hit {
  i: number;
  at: number;
}

/**
 * Goes on from row `i` to the next whose path has the needle; `hit.i` is as many as there are rows when none has.
 *
 * @param hit where it was found before, and is found now
 */
function nextHit(folded: Buffer, pathAt: Uint32Array, needle: Buffer, rows: Uint32Array, from: number, hit: Hit): void {
  let i = from;
  for (let at = Math.max(hit.at, pathAt[rows[i]!]!); ; at++) {
    at = folded.indexOf(needle, at);
    hit.at = at;
    hit.i = rows.length;
    if (at < 0) return;
    // Hits are near each other where there are many: steps first, then halves.
    for (let steps = 0; steps < 8 && i < rows.length && pathAt[rows[i]! + 1]! <= at; steps++) i++;
    if (i < rows.length && pathAt[rows[i]! + 1]! <= at) i = placeOf(pathAt, at, rows, i + 1);
    if (i >= rows.length) return;
    hit.i = i;
    const row = rows[i]!;
    // Otherwise it is in a path before this one that is not asked for, or half in this and half in the next.
    if (at >= pathAt[row]! && at + needle.length <= pathAt[row + 1]!) return;
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

/** Where a stretch of bytes first has the needle; -1 where it has not. */
function placeIn(bytes: Uint8Array, from: number, to: number, needle: Uint8Array): number {
  const first = needle[0];
  const { length } = needle;
  const last = to - length;
  for (let at = from; at <= last; at++) {
    if (bytes[at] !== first) continue;
    let i = 1;
    while (i < length && bytes[at + i] === needle[i]) i++;
    if (i === length) return at;
  }
  return -1;
}
