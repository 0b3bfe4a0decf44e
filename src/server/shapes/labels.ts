/** Labels of entries. */
import { z } from 'zod';
import { MAX_LABEL } from '../../core/labels';
import { path } from './common';

/** What a table of labels would name, by each way it can be read. */
export const labelTableAnswer = z.object({
  rows: z.number(),
  /** Labels that were set; 0 while nothing was taken. */
  set: z.number(),
  ways: z
    .array(
      z.object({
        take: z.enum(['by path', 'from 0', 'from 1']),
        fits: z.number(),
        shown: z
          .array(
            z.object({
              path: z.string(),
              text: z.string(),
            }),
          )
          .readonly(),
        unmatched: z
          .array(
            z.object({
              of: z.string(),
              line: z.number(),
            }),
          )
          .readonly(),
      }),
    )
    .readonly(),
});

export type LabelTableAnswer = Readonly<z.output<typeof labelTableAnswer>>;

export const labelEdit = z.strictObject({
  labels: z
    .array(z.strictObject({ path, text: z.string().max(MAX_LABEL) }))
    .min(1)
    .max(100_000),
});

export const labelTableOrder = z.strictObject({
  text: z.string().max(32 << 20),
  folder: z.string().max(4096).optional(),
  take: z.enum(['by path', 'from 0', 'from 1']).optional(),
});

export type LabelTableOrder = z.output<typeof labelTableOrder>;
