/** A film as a file: made already, or by a run. */
import { z } from 'zod';
import { runAnswer } from './runs';

export const filmFileAnswer = z.union([
  z.object({
    ready: z.literal(true),
    bytes: z.number(),
  }),
  z.object({
    ready: z.literal(false),
    run: runAnswer,
  }),
]);
export type FilmFileAnswer = Readonly<z.output<typeof filmFileAnswer>>;
