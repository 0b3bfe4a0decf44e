/** Keys of archives. */
import { z } from 'zod';
import { path } from './common';
import { runAnswer } from './runs';

export const keyAnswer = z.object({
  id: z.number(),
  kind: z.string(),
  mask: z.string(),
  /** What it was called where it was pasted from. */
  name: z.string().nullable(),
  /** The build it was added for. */
  build: z.string().nullable(),
  /** Paths of the archives it opens. */
  opens: z.array(z.string()).readonly(),
});

export type KeyAnswer = Readonly<z.output<typeof keyAnswer>>;

export const xorAnswer = z.object({
  /** How many bytes were known. */
  known: z.number(),
  solutions: z
    .array(
      z.object({
        mask: z.string(),
        /** Bytes of the key. */
        period: z.number(),
        /** Where the known bytes stand. */
        at: z.number(),
        /** Known bytes beyond one round of the key, all of which it explains. */
        confirmed: z.number(),
        /** The start of the file, plain, in hex. */
        preview: z.string(),
      }),
    )
    .readonly(),
  kept: z.boolean(),
  run: runAnswer.nullable(),
});

export type XorAnswer = Readonly<z.output<typeof xorAnswer>>;

export const newKey = z.strictObject({ text: z.string().min(1).max(65_536) });

export const keySearchOrder = z.strictObject({ file: path });

export const xorOrder = z
  .strictObject({
    text: z.string().max(4096).optional(),
    hex: z
      .string()
      .regex(/^([0-9a-f]{2}){1,4096}$/i)
      .optional(),
    /** Where the known bytes are; undefined if that is not known. */
    at: z.number().int().min(0).optional(),
    /** Which of the solutions is kept as a key. */
    keep: z.number().int().min(0).optional(),
  })
  .refine(({ text, hex }) => (text === undefined) !== (hex === undefined), 'says the known bytes as text or as hex');

export type XorOrder = z.output<typeof xorOrder>;
