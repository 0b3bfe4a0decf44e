/** What a game, or a part of it, is made of. */
import { z } from 'zod';
import { KIND_NAMES } from './common';

export const shareAnswer = z.object({
  name: z.string(),
  count: z.number(),
  bytes: z.number(),
  stored: z.number(),
});

export type ShareAnswer = Readonly<z.output<typeof shareAnswer>>;

export interface FolderShare extends ShareAnswer {
  readonly path: string;
  readonly under: readonly FolderShare[];
}

const folderShare: z.ZodType<FolderShare> = shareAnswer.extend({
  path: z.string(),
  get under() {
    return z.array(folderShare).readonly();
  },
});

const place = z.object({
  archive: z.number(),
  n: z.number(),
  path: z.string(),
  kind: z.enum(KIND_NAMES),
  size: z.number(),
});

const overview = z.object({
  total: shareAnswer,
  /** The largest folders, two deep, below the folder that is looked at. */
  folders: z.array(folderShare).readonly(),
  kinds: z.array(shareAnswer.extend({ kind: z.enum(KIND_NAMES) })).readonly(),
  biggest: z.array(place).readonly(),
  /** Groups of entries with one content, the most wasteful first, as far as archives keep checksums. */
  duplicates: z.array(z.object({ size: z.number(), count: z.number(), entries: z.array(place).readonly() })).readonly(),
  /** Bytes of all duplicates but the first of each. */
  duplicateBytes: z.number(),
});

/** What a game, or a part of it, is made of. */
export const overviewAnswer = overview.extend({
  archives: z
    .array(
      shareAnswer.extend({
        archive: z.number(),
      }),
    )
    .readonly(),
  /** By how entries are packed, in words. */
  methods: z.array(shareAnswer).readonly(),
  /** Archives with bytes that no field of their recipe explains. */
  unexplained: z
    .array(
      z.object({
        archive: z.number(),
        path: z.string(),
        bytes: z.number(),
      }),
    )
    .readonly(),
});

export type OverviewAnswer = Readonly<z.output<typeof overviewAnswer>>;
