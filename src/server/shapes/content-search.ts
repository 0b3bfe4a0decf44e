/** Search in the content of entries, and what refers to what. */
import { z } from 'zod';
import { soughtSchema, TEXT_ENCODINGS } from '../../core/inside';
import { KIND_NAMES } from './common';
import { listPart } from './lists';

/** A place in an entry where something was found. */
export const hitAnswer = z.object({
  number: z.number(),
  archive: z.number(),
  /** -1 in a file that nothing reads. */
  n: z.number(),
  path: z.string(),
  kind: z.enum(KIND_NAMES),
  at: z.number(),
  length: z.number(),
  /** As what it is there, such as UTF-16. */
  form: z.string(),
  /** Bytes around it in base64; it begins at `lead` in them. */
  around: z.string(),
  lead: z.number(),
});

export type HitAnswer = Readonly<z.output<typeof hitAnswer>>;

export const hitsPage = z.object({
  total: z.number(),
  entries: z.number(),
  rows: z.array(hitAnswer).readonly(),
});

export type HitsPage = Readonly<z.output<typeof hitsPage>>;

/** What an entry names and what names it. */
export const linksAnswer = z.object({
  /** False until it has been searched. */
  known: z.boolean(),
  /** Entries have changed since. */
  stale: z.boolean(),
  uses: z.array(z.string()).readonly(),
  usedBy: z.array(z.string()).readonly(),
  /** Everything near, for drawing. */
  around: z
    .array(
      z.object({
        from: z.string(),
        to: z.string(),
      }),
    )
    .readonly(),
});

export type LinksAnswer = Readonly<z.output<typeof linksAnswer>>;

/** The next place where something is; null when it is nowhere in the rest. */
export const placeInBytes = z.object({
  found: z
    .object({
      at: z.number(),
      length: z.number(),
    })
    .nullable(),
});

export type PlaceInBytes = Readonly<z.output<typeof placeInBytes>>;

export const insideOrder = listPart.extend({ sought: soughtSchema });

/** A place in an entry, or in a file itself when `n` is -1, that a text was found at. */
const textPlace = {
  archive: z.coerce.number().int().positive(),
  n: z.coerce.number().int().min(-1),
  at: z.coerce.number().int().min(0),
  length: z.coerce.number().int().min(1).max(4096),
  encoding: z.preprocess((value) => String(value).toLowerCase(), z.enum(TEXT_ENCODINGS)),
};

export const textPlaceQuery = z.object(textPlace);

export type TextPlace = z.output<typeof textPlaceQuery>;

/** Other words for it. `join`: the file goes into builds with them. */
export const textOrder = z.strictObject({ ...textPlace, text: z.string().max(65_536), join: z.boolean() });

export type TextOrder = z.output<typeof textOrder>;

export const textPlaceAnswer = z.object({
  /** The file or entry it is in. */
  path: z.string(),
  at: z.number(),
  /** Bytes of its place. */
  length: z.number(),
  encoding: z.string(),
  text: z.string(),
  fill: z.enum(['zeros', 'spaces']),
  /** Bytes of the number in front that stores its length; 0 where none does. */
  counted: z.number(),
});

export type TextPlaceAnswer = Readonly<z.output<typeof textPlaceAnswer>>;

export const findInEntryOrder = z.strictObject({ sought: soughtSchema, from: z.number().int().min(0).default(0) });
