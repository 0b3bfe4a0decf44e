/** An entry as its form shows it. */
import { z } from 'zod';
import { id } from './common';
import { formFacts } from './form-facts';
import { entryRow } from './lists';

export const entryFieldAnswer = z.object({
  field: z.string(),
  value: z.string(),
  at: z.number(),
  length: z.number(),
  unlocked: z.boolean(),
  formula: z.string().nullable(),
});

export const entryDetails = entryRow.extend({
  archivePath: z.string(),
  /** The file its bytes lie in, which is another than the archive's main one in archives of several volumes. */
  file: z.string(),
  /** 0 is the main file, -1 where the offset counts in unlocked bytes, and not in a file. */
  volume: z.number(),
  stored: z.number(),
  at: z.number(),
  method: z.string(),
  /** What of it is behind a key. */
  locked: z.object({
    index: z.boolean(),
    entry: z.boolean(),
  }),
  mime: z.string(),
  /** Its archive can be without it. */
  removable: z.boolean(),
  inTray: z.boolean(),
  /** Archives that hold the same path and load before. */
  covers: z
    .array(
      z.object({
        archive: z.number(),
        n: z.number(),
        path: z.string(),
      }),
    )
    .readonly(),
  /** The path in its archive that it is a link to: a file for it changes that entry. */
  linkTo: z.string().nullable(),
  /** The archive that loads last of those that load after it and hold the same path. */
  coveredBy: z.string().nullable(),
  /** The same path in other games, such as another build of this one. */
  elsewhere: z
    .array(
      z.object({
        game: z.number(),
        name: z.string(),
        archive: z.number(),
        n: z.number(),
      }),
    )
    .readonly(),
  fields: z.array(entryFieldAnswer).readonly(),
  /** Null when its form is not known or adds nothing to its kind. */
  facts: formFacts.nullable(),
  /** Why it cannot be shown as what it is. */
  trouble: z.string().nullable(),
  expects: z.array(z.string()).readonly(),
});

export type EntryDetails = Readonly<z.output<typeof entryDetails>>;

/** An entry at a glance, for its card. */
export const glance = z.object({
  /** What there is to say of it without opening it; empty where there is nothing. */
  summary: z.string(),
  /**
   * What is shown: its thumbnail, as WebP in Base64 or null when its address is to be asked for it; how loud it is along its length
   * (0 to 1); its first lines; or the mark of its kind.
   */
  shows: z.union([
    z.object({ is: z.literal('thumbnail'), webp: z.string().nullable() }),
    z.object({ is: z.literal('peaks'), peaks: z.array(z.number()).readonly() }),
    z.object({ is: z.literal('lines'), lines: z.array(z.string()).readonly() }),
    z.object({ is: z.literal('mark') }),
  ]),
});

export type Glance = Readonly<z.output<typeof glance>>;

export const glanceOrder = z.strictObject({ entries: z.array(z.tuple([id, z.number().int().min(0)])).max(60) });
