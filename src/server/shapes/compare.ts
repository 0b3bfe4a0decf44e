/** Two entries side by side. */
import { z } from 'zod';
import { KIND_NAMES } from './common';
import { formFacts } from './form-facts';

export const comparedSide = z.object({
  game: z.number(),
  /** As a person knows it, with its build. */
  gameName: z.string(),
  archive: z.number(),
  n: z.number(),
  path: z.string(),
  kind: z.enum(KIND_NAMES),
  size: z.number(),
  archivePath: z.string(),
  mime: z.string(),
  /** As its form reads it. */
  facts: formFacts.nullable(),
});

export type ComparedSide = Readonly<z.output<typeof comparedSide>>;

/** A stretch where two differ: the bytes on the left and those on the right that take their place. */
const difference = z.object({ left: z.number(), leftLength: z.number(), right: z.number(), rightLength: z.number() });

/** Two entries next to each other. */
export const comparedAnswer = z.object({
  left: comparedSide,
  right: comparedSide,
  same: z.boolean(),
  /** Bytes both begin with. */
  start: z.number(),
  differences: z.array(difference).readonly(),
  /** There are more differences than are listed. */
  cut: z.boolean(),
  /** Which holds more, in a sentence. */
  verdict: z.string(),
});

export type ComparedAnswer = Readonly<z.output<typeof comparedAnswer>>;

/** An entry in an address: its archive and number, such as `3.17`. */
export const entryMark = z
  .string()
  .regex(/^\d{1,9}\.\d{1,9}$/)
  .transform((text) => ({ archive: Number(text.split('.')[0]), n: Number(text.split('.')[1]) }));
