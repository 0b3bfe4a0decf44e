/** A game profile: how a game is set up here. It can be shared, and never holds keys or game data. */
import { z } from 'zod';
import { tileMapRule } from '../forms/records/tile-map';
import { DEFAULT_ORDER, loadOrderRule } from './load-order';
import { testRule } from './test-rules';

const path = z.string().min(1).max(4096);

/**
 * How changes are built. `patch`: a small archive that loads last; `keep`: rebuilt where it was, `append`: rebuilt with what
 * grew at the end, `afresh`: rebuilt from the start; `loose`: files beside the game.
 */
export const HOWS = ['patch', 'keep', 'append', 'afresh', 'loose'] as const;
export type How = (typeof HOWS)[number];

/** What belongs to a game besides its archives; kept with the game and written into a profile file. */
export const gameProfile = z.strictObject({
  loadOrder: loadOrderRule.default(DEFAULT_ORDER),
  /** Archives someone put in an order of their own. */
  byHand: z.array(path).max(10_000).default([]),
  /** Where the game's build is found, if the first guess is not right: the file, and what is before the version. */
  build: z.strictObject({ file: path, before: z.string().max(200).default('') }).optional(),
  /** Notes on entries. In the database they have a table of their own, and stand here only in a file. */
  labels: z
    .array(z.strictObject({ path, label: z.string().min(1).max(1000) }))
    .max(1_000_000)
    .default([]),
  /** Fields of records that point to other records: `quests.json: reward` → `items.id`. */
  references: z
    .array(z.strictObject({ field: z.string().min(1).max(300), to: z.string().min(1).max(300) }))
    .max(10_000)
    .default([]),
  /** Records that are maps of tile layers. */
  maps: z.array(tileMapRule).max(1000).default([]),
  /** What the game expects back, by path pattern, in words. */
  expectations: z
    .array(z.strictObject({ paths: path, expects: z.string().min(1).max(1000) }))
    .max(10_000)
    .default([]),
  /** Rules that split the channels of packed pictures; the newest first. */
  splits: z.array(z.string().min(1).max(400)).max(20).default([]),
  /** Below which folder the game looks for files before it looks into its archives; empty for its own. */
  looseFolder: z.string().max(4096).default(''),
  /** The way of building that the game reads, as somebody chose it. */
  how: z.enum(HOWS).optional(),
  /** Rules a build is checked by, for games that have no loader of ours. */
  testRules: z.array(testRule).max(1000).default([]),
});
export type GameProfile = z.output<typeof gameProfile>;

/** The file a profile is shared as. */
export const profileFile = z.strictObject({
  format: z.literal('zero-latch profile'),
  version: z.literal(1),
  game: z.string().min(1).max(120),
  build: z.string().max(200).nullable().default(null),
  settings: gameProfile,
  recipes: z
    .array(
      z.strictObject({
        id: z.string().min(1).max(200),
        revision: z.number().int().min(1),
        text: z
          .string()
          .min(1)
          .max(1 << 20),
      }),
    )
    .max(1000)
    .default([]),
  nameLists: z
    .array(z.strictObject({ name: z.string().min(1).max(200), kind: z.enum(['list', 'pattern']), text: z.string() }))
    .max(1000)
    .default([]),
});
export type ProfileFile = z.output<typeof profileFile>;
