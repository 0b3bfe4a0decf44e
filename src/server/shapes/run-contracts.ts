/**
 * Every kind of run: the queue it waits in, what it is given, and what it gives back. The work itself lies next to its feature,
 * and the worker has one for each kind.
 */
import { faultSchema } from '../../core/faults';
import { noteSchema } from '../../core/notes';
import { z } from 'zod';
import { KIND_NAMES } from './common';
import { insideOrder } from './content-search';
import { FILM_OUT } from '../../core/forms/film/out-formats';
import { filmOrder } from './films';
import { homeAnswer } from './home';
import { sharedFile, shareOrder } from './mods';
import { archiveWays, buildFile, HOWS, routineOrder, waysAnswer } from './put-back';
import { takeOutOrder } from './take-out';
import { wordsPair } from './words';

/**
 * `main`: one after the other. `behind`: long background work, which must not hold up what a user asked for. `front`:
 * short work someone looks at the page for, which must not wait behind an hour of taking out.
 */
export const QUEUES = ['main', 'behind', 'front'] as const;
type Queue = (typeof QUEUES)[number];

interface RunContract {
  readonly queue: Queue;
  readonly input: z.ZodType<object>;
  readonly result: z.ZodType<object>;
}

const nothing = z.object({});
/** The number of a row. */
const row = z.number().int().positive();
const blob = z.string().regex(/^[0-9a-f]{64}$/);
const count = z.number().int().min(0);
const failure = z.object({ path: z.string(), fault: faultSchema }).readonly();
const built = z.object({
  build: z.number(),
  number: z.number(),
  files: z.array(buildFile).readonly(),
  /** The game started with it, in the test run. */
  started: z.boolean(),
});

/** What a step of a routine gave back. */
const stepResult = z.looseObject({ do: z.string() });

/** An entry on its way out. */
const outgoingEntry = z.object({
  archive: z.number(),
  n: z.number(),
  path: z.string(),
  size: z.number(),
  kind: z.enum(KIND_NAMES),
  label: z.string().nullable(),
  /** Tells its content from what it was: the checksums the archive keeps, or when and where it lies. */
  mark: z.string(),
});
export type OutgoingEntry = Readonly<z.output<typeof outgoingEntry>>;

/** A key that a search found: where it stood, and never the key itself. */
const keySearchFind = z.object({
  mask: z.string(),
  at: z.number(),
  written: z.enum(['raw', 'hex', 'base64', 'schedule', 'text', 'derived']),
  archive: z.string(),
  slot: z.string(),
});
export type KeySearchFind = Readonly<z.output<typeof keySearchFind>>;

export const RUNS = {
  scan: {
    queue: 'main',
    input: nothing,
    result: z.object({ files: count, read: count, build: z.string().nullable() }),
  },
  unlock: {
    queue: 'main',
    input: z.object({ keys: z.array(row) }),
    result: z.object({ opened: z.array(z.string()), refused: z.array(failure) }),
  },
  'find-inside': {
    queue: 'behind',
    /** Without an archive: all files that nothing has looked into yet. */
    input: z.object({ archive: row.optional() }),
    result: z.object({ files: count, found: count }),
  },
  prove: { queue: 'behind', input: nothing, result: z.object({ proven: count }) },
  names: {
    queue: 'main',
    /** Without lists, the names that are known are given to the entries. */
    input: z.object({ lists: z.array(row).default([]) }),
    result: z.object({
      tested: count,
      matched: count,
      fresh: count,
      notes: z.array(noteSchema),
      archives: z.array(z.object({ path: z.string(), named: count, of: count })),
    }),
  },
  'key-search': {
    queue: 'main',
    input: z.object({
      haystack: z.string(),
      name: z.string(),
      /** It was uploaded for this search alone. */
      temporary: z.boolean(),
    }),
    result: z.object({ file: z.string(), bytes: count, searched: z.array(z.string()), found: z.array(keySearchFind) }),
  },
  'search-inside': {
    queue: 'main',
    input: insideOrder,
    /** `cut`: there were more places than are kept. */
    result: z.object({ entries: count, failures: count, with: count, hits: count, cut: z.boolean() }),
  },
  links: { queue: 'main', input: nothing, result: z.object({ entries: count, failures: count, links: count }) },
  records: { queue: 'main', input: nothing, result: z.object({ tables: count, rows: count }) },
  'bring-in': {
    queue: 'front',
    /** `alone`: it began with one file. One that is the same as before is then asked about. */
    input: z.object({ dropId: row, alone: z.boolean().default(false) }),
    /** `first`: the path of the first change; `ask`: the first file that needs a decision. */
    result: z.object({
      drop: z.number(),
      taken: count,
      same: count,
      left: count,
      first: z.string().nullable(),
      ask: z.number().nullable(),
    }),
  },
  'take-out': {
    queue: 'main',
    input: z.object(takeOutOrder.shape).extend({
      /** The list is kept with the run: one that is resumed takes what it was given. */
      entries: z.array(outgoingEntry).readonly(),
      /** Of the temporary names of files: a run that is resumed finds what it left half written. */
      token: z.string().optional(),
    }),
    result: z.object({
      taken: count,
      bytes: count,
      skipped: count,
      turned: count,
      kept: count,
      within: count,
      failures: z.array(failure),
      /** The folder, or null for a ZIP that is downloaded. */
      folder: z.string().nullable().default(null),
    }),
  },
  film: {
    queue: 'front',
    input: z.object(filmOrder.shape).extend({ archiveId: z.number(), n: z.number() }),
    result: z.object({
      archiveId: z.number(),
      n: z.number(),
      as: z.enum(FILM_OUT),
      stream: z.number().nullable(),
      bytes: count,
    }),
  },
  build: {
    queue: 'main',
    /** `again`: the changes of this build, and not those there are now. */
    input: z.object({ how: z.enum(HOWS), archives: archiveWays.default({}), again: row.optional() }),
    result: built,
  },
  rebase: {
    queue: 'main',
    input: nothing,
    result: z.object({ changes: count, fits: count, changed: count, gone: count, there: count }),
  },
  renew: { queue: 'main', input: nothing, result: built.extend({ fitted: count }) },
  estimate: { queue: 'front', input: nothing, result: waysAnswer },
  'words-in': {
    queue: 'front',
    input: z.object(wordsPair.shape).extend({ name: z.string(), file: blob, drop: row }),
    result: z.object({ texts: count, taken: count, unknown: count, doubled: count, failures: count }),
  },
  routine: {
    queue: 'main',
    input: z.object(routineOrder.shape).extend({
      /** What it has done so far, so that the next worker can resume it. */
      memory: z
        .object({
          results: z.array(stepResult).readonly(),
          /** The import of the step under way; once all files are in it, what becomes of them may be a person's doing. */
          begun: z.object({ dropId: row, isWhole: z.boolean() }).optional(),
        })
        .default({ results: [] }),
    }),
    result: z.object({ steps: z.array(stepResult).readonly() }),
  },
  share: {
    queue: 'main',
    input: z.object(shareOrder.shape),
    result: z.object({ file: blob, bytes: count, name: z.string(), files: z.array(sharedFile) }),
  },
  'bring-mod': {
    queue: 'main',
    input: z.object({ file: blob, name: z.string(), agreed: z.boolean().default(false) }),
    /** `asks`: bytes it unpacks to, which someone has to agree to first; `mod`: what it has become. */
    result: z.union([
      z.object({ asks: count, name: z.string() }),
      z.object({ mod: z.number(), name: z.string(), taken: count, leftOut: count }),
      nothing,
    ]),
  },
  'put-in': { queue: 'main', input: z.object({ build: row }), result: z.object({ install: z.number() }) },
  'take-back': {
    queue: 'main',
    /** `leave`: files that something else wrote since stay as they are. */
    input: z.object({ install: row, leave: z.boolean() }),
    result: z.object({ files: count, left: z.array(z.string()) }),
  },
  tidy: { queue: 'main', input: nothing, result: z.object({ freed: count }) },
  measure: { queue: 'front', input: nothing, result: homeAnswer },
} as const satisfies Record<string, RunContract>;

export type RunKind = keyof typeof RUNS;
export const RUN_KINDS = Object.keys(RUNS) as RunKind[];

/** What a run is started with. */
export type RunOrder<K extends RunKind> = z.input<(typeof RUNS)[K]['input']>;
export type RunInput<K extends RunKind> = z.output<(typeof RUNS)[K]['input']>;
export type RunResult<K extends RunKind> = z.output<(typeof RUNS)[K]['result']>;
