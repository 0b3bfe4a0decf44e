/** Finding the entries that dropped files are for: by path, name, label or number. */
import type { Note } from '../notes';
import type { Kind } from './kind-names';

export interface DroppedFile {
  /** With the folders it was dropped in, parted by `/`. */
  readonly name: string;
  /** What it calls itself; where its name says nothing, what its bytes say. */
  readonly kind: Kind;
}

/** An entry that a file may be for. */
export interface MatchCandidate {
  readonly path: string;
  readonly kind: Kind;
  /** Set when the file has its name by what someone noted on the entry. */
  readonly label?: string;
}

export interface MatchChoice {
  readonly path: string;
  readonly matchedBy: Note;
}

export type FileMatch =
  | { readonly is: 'one'; readonly choice: MatchChoice }
  | { readonly is: 'several'; readonly choices: readonly MatchChoice[] }
  /** Its name is a number, which counts within a folder that is not known yet. */
  | { readonly is: 'number'; readonly number: number }
  | { readonly is: 'none' };

/** Entries a person is asked to choose from. */
const MOST_CHOICES = 20;

/**
 * The more of a path agrees the better; then the whole name goes before the name without its ending, and the same kind
 * before another. What has only the name without its ending and is of another kind is asked about, never taken.
 *
 * @param candidates entries with the file's name, with or without its ending, or with its name as their label
 */
export function matchFile(file: DroppedFile, candidates: readonly MatchCandidate[]): FileMatch {
  const dirs = foldersOf(file.name);
  const near = candidates.map((candidate) => {
    const folders = foldersOf(candidate.path);
    const exact = lastOf(candidate.path) === lastOf(file.name);
    // That neither is known to be anything does not make them alike.
    const alike = candidate.kind === file.kind && file.kind !== 'bytes';
    return {
      path: candidate.path,
      label: candidate.label,
      depth: inCommon(dirs, folders),
      exact,
      sure: exact || alike,
      alike,
    };
  });
  const named = near.filter(({ label }) => label === undefined);
  const pool = named.length > 0 ? named : near;
  const deepest = pool.filter(({ depth }) => depth === Math.max(...pool.map((one) => one.depth)));
  const exact = preferred(deepest, (one) => one.exact);
  const left = preferred(exact, (one) => one.alike).map((one) => ({
    ...one,
    choice: { path: one.path, matchedBy: reason(one) },
  }));
  const [only] = left;
  if (only !== undefined && left.length === 1 && only.sure) return { is: 'one', choice: only.choice };
  if (only !== undefined) return { is: 'several', choices: left.map(({ choice }) => choice).slice(0, MOST_CHOICES) };
  const number = numberOf(file.name);
  return number === undefined ? { is: 'none' } : { is: 'number', number };
}

/** What a file is called when nothing but a number is: `9.wav`, `cue 9.wav`, `009_final.wav` are 9. */
function numberOf(name: string): number | undefined {
  const digits = /^\D*(\d{1,9})\D*$/.exec(stemOf(lastOf(name)))?.[1];
  return digits === undefined ? undefined : Number(digits);
}

/** How numbers of files are read: as those in the names of entries, or as places in the folder. */
export const COUNTINGS = ['own', 'from 0', 'from 1'] as const;
export type Counting = (typeof COUNTINGS)[number];

const BY_COUNTING: Readonly<Record<Counting, Note>> = {
  own: { code: 'by-number' },
  'from 0': { code: 'by-number', countedFrom: 0 },
  'from 1': { code: 'by-number', countedFrom: 1 },
};

/**
 * The entry each number is for, by each way of counting.
 *
 * @param paths the entries of one folder, in their order
 */
export function matchNumbers(
  numbers: readonly number[],
  paths: readonly string[],
): Readonly<Record<Counting, readonly (MatchChoice | undefined)[]>> {
  const byNumber = new Map<number, string | null>();
  for (const path of paths) {
    const own = /(\d{1,9})\D*$/.exec(stemOf(lastOf(path)))?.[1];
    // Two of one number are distinguished by nothing.
    if (own !== undefined) byNumber.set(Number(own), byNumber.has(Number(own)) ? null : path);
  }
  const chosen = (counting: Counting, path: string | null | undefined): MatchChoice | undefined =>
    path === null || path === undefined ? undefined : { path, matchedBy: BY_COUNTING[counting] };
  return {
    own: numbers.map((number) => chosen('own', byNumber.get(number))),
    'from 0': numbers.map((number) => chosen('from 0', paths[number])),
    'from 1': numbers.map((number) => chosen('from 1', paths[number - 1])),
  };
}

function reason({ label, depth }: { label: string | undefined; depth: number }): Note {
  if (label !== undefined) return { code: 'by-label', label };
  return { code: depth > 0 ? 'by-path' : 'by-name' };
}

const preferred = <T>(all: readonly T[], good: (one: T) => boolean): readonly T[] =>
  all.some(good) ? all.filter(good) : all;

const lastOf = (path: string) => path.slice(path.lastIndexOf('/') + 1).toLowerCase();
const stemOf = (name: string) => name.replace(/\.[^.]*$/, '');
const foldersOf = (path: string) => path.toLowerCase().split('/').slice(0, -1);

/** Folders that agree, counted from the innermost. */
function inCommon(a: readonly string[], b: readonly string[]): number {
  let depth = 0;
  while (depth < a.length && depth < b.length && a.at(-1 - depth) === b.at(-1 - depth)) depth++;
  return depth;
}
