/** What pages show of a sound. */
import { z } from 'zod';

export const soundFacts = z.object({
  form: z.literal('sound'),
  /** Codec, channels and rate in words. */
  summary: z.string(),
  seconds: z.number(),
  /** What is played over and over, in seconds. */
  loop: z.tuple([z.number(), z.number()]).readonly().nullable(),
  /** True when a browser plays its bytes as they are. */
  direct: z.boolean(),
});

export type SoundFacts = Readonly<z.output<typeof soundFacts>>;
