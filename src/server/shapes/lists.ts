/** Lists of entries: what is asked for, and the rows that come. */
import { z } from 'zod';
import { CATALOGUE_SORTS } from '../../core/catalogue';
import { id, KIND_NAMES } from './common';

/** What an entry is in the merged game: it wins, another covers it, or it says that one is gone. */
export const entryRole = z.enum(['wins', 'covered', 'removes']);

export const entryRow = z.object({
  archive: z.number(),
  n: z.number(),
  path: z.string(),
  name: z.string(),
  kind: z.enum(KIND_NAMES),
  size: z.number(),
  changed: z.boolean(),
  role: entryRole,
  /** What someone noted on it. */
  label: z.string().nullable(),
});

export type EntryRow = Readonly<z.output<typeof entryRow>>;

export const entryPage = z.object({
  total: z.number(),
  bytes: z.number(),
  kinds: z.partialRecord(z.enum(KIND_NAMES), z.number()),
  /** How many lie in each archive that has any, in load order. */
  archives: z
    .array(
      z.object({
        id: z.number(),
        path: z.string(),
        count: z.number(),
      }),
    )
    .readonly(),
  rows: z.array(entryRow).readonly(),
});

export type EntryPage = Readonly<z.output<typeof entryPage>>;

export const folderRow = z.object({
  path: z.string(),
  name: z.string(),
  count: z.number(),
  /** True when it has folders of its own. */
  folders: z.boolean(),
});

export type FolderRow = Readonly<z.output<typeof folderRow>>;

export const savedSearch = z.object({
  id: z.number(),
  name: z.string(),
  /** The place as the address has it. */
  place: z.string(),
});

export type SavedSearch = Readonly<z.output<typeof savedSearch>>;

/** What is listed, and in which order. */
export const entryPlace = z.object({
  search: z.string().max(500).default(''),
  folder: z.string().max(4096).default(''),
  archive: id.optional(),
  sort: z.enum(CATALOGUE_SORTS).default('path'),
  order: z.enum(['up', 'down']).default('up'),
});

export type EntryPlace = z.output<typeof entryPlace>;

export const entryQuery = entryPlace.extend({
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(200),
});

export type EntryQuery = z.output<typeof entryQuery>;

/** Places of entries in a list: pairs of the first and the one behind the last. */
const ranges = z.array(z.tuple([z.number().int().min(0), z.number().int().min(0)])).max(10_000);

export const listPart = z.strictObject({ place: entryPlace, ranges: ranges.optional() });

export type ListPart = z.output<typeof listPart>;

export const searchEdit = z.strictObject({ name: z.string().trim().min(1).max(80), place: z.string().max(8000) });
