/** What the application's own folder holds. */
import { z } from 'zod';

const homePart = z.object({
  id: z.string(),
  name: z.string(),
  bytes: z.number(),
  files: z.number(),
  /** Bytes that freeing space would give back. */
  frees: z.number(),
});
export type HomePart = Readonly<z.output<typeof homePart>>;

const homeBuild = z.object({
  id: z.number(),
  number: z.number(),
  game: z.object({ id: z.number(), name: z.string() }).readonly(),
  createdAt: z.string(),
  /** Bytes of all its files, and of those that only it refers to. */
  bytes: z.number(),
  frees: z.number(),
  /** It is in the game, and cannot be deleted. */
  isIn: z.boolean(),
});
export type HomeBuild = Readonly<z.output<typeof homeBuild>>;

export const homeAnswer = z.object({
  home: z.string(),
  /** Bytes that are free where the home lies. */
  free: z.number(),
  parts: z.array(homePart).readonly(),
  builds: z.array(homeBuild).readonly(),
});
export type HomeAnswer = Readonly<z.output<typeof homeAnswer>>;

/** What was on disk when it was added up last, and when that was; null before the first time. */
export const measuredHome = z.object({
  home: homeAnswer.nullable(),
  at: z.string().nullable(),
});
export type MeasuredHome = Readonly<z.output<typeof measuredHome>>;
