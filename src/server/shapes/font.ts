/** What pages show of a font. */
import { z } from 'zod';

export const fontFacts = z.object({
  form: z.literal('font'),
  packing: z.string(),
  family: z.string(),
  style: z.string(),
  glyphs: z.number(),
  /** Code points it has a glyph for. */
  characters: z.number(),
  /** The only size it is drawn at, in pixels; null for outlines. */
  fixedSize: z.number().nullable(),
  /** Distance between two lines, in sizes of the font. */
  lineHeight: z.number(),
  /** Paths of the pictures that hold its letters. */
  pages: z.array(z.string()).readonly(),
  /** By block of Unicode. */
  coverage: z.array(z.object({ block: z.string(), has: z.number(), of: z.number() })).readonly(),
});

export const fontLineQuery = z.object({
  /** A sample of its letters without it. */
  text: z.string().min(1).max(400).optional(),
  /** Pixels of an em. */
  size: z.coerce.number().int().min(6).max(400).default(32),
});

export type FontLineQuery = Readonly<z.output<typeof fontLineQuery>>;

/** Letters of a table of texts that a font of the game lacks. */
export const fontGaps = z.object({
  archive: z.number(),
  n: z.number(),
  path: z.string(),
  /** Characters it has. */
  characters: z.number(),
  /** How many letters it lacks. */
  count: z.number(),
  /** The most frequent of them, with how many texts have each, and the key of the first. */
  missing: z.array(z.object({ letter: z.string(), texts: z.number(), first: z.string() })).readonly(),
  /** Why it could not be read. */
  trouble: z.string().nullable(),
});

export type FontGaps = Readonly<z.output<typeof fontGaps>>;

export const fontGapsAnswer = z.object({
  fonts: z.array(fontGaps).readonly(),
  /** Fonts of the game that were not looked at, because there are too many. */
  unchecked: z.number(),
});

export type FontGapsAnswer = Readonly<z.output<typeof fontGapsAnswer>>;
