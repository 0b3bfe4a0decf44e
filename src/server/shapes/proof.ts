/** What a proof of an archive found, in sums. */
import { z } from 'zod';

export const proofAnswer = z.object({
  bytes: z.object({
    explained: z.number(),
    total: z.number(),
  }),
  formulas: z.object({
    agree: z.number(),
    total: z.number(),
  }),
  identical: z.boolean(),
  changed: z.object({
    equal: z.number(),
    tested: z.number(),
    total: z.number(),
  }),
  /** What people do with an archive: done and read back. It holds when the format forbids the rest. */
  edits: z.object({
    done: z.number(),
    total: z.number(),
    holds: z.boolean(),
    /** Why the format forbids the first of the rest. */
    forbidden: z.string().nullable(),
  }),
  proven: z.boolean(),
  firsts: z.array(z.string()).readonly(),
});
export type ProofAnswer = Readonly<z.output<typeof proofAnswer>>;
