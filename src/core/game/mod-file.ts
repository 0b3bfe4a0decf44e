/**
 * A mod file: what someone changed in a game, to pass on. A ZIP with `mod.json` and the files it names; it holds what its maker
 * made, and never what is the game's.
 */
import { z } from 'zod';

const path = z.string().min(1).max(4096);
const sha256 = z.string().regex(/^[0-9a-f]{64}$/);
const size = z.number().int().min(0).max(Number.MAX_SAFE_INTEGER);
/** A file of the ZIP. */
const member = z.string().min(1).max(4200);
const content = z.strictObject({ sha256, size });

const changed = {
  path,
  note: z.string().max(4000).default(''),
};

const modChange = z.discriminatedUnion('action', [
  z.strictObject({
    ...changed,
    action: z.literal('replace'),
    /** What the game had when the change was made. */
    replaces: content,
    becomes: content,
    /** The new bytes, or what makes them of the old ones: VCDIFF (RFC 3284), without extensions. */
    file: member.optional(),
    difference: member.optional(),
    /** First and last sample of a sound's loop that is another than the game's. */
    loop: z.tuple([size, size]).optional(),
  }),
  z.strictObject({
    ...changed,
    action: z.literal('add'),
    becomes: content,
    file: member,
    /** The archive it goes into, by its path in the game's folder; empty for a file of its own in that folder. */
    into: z.string().max(4096),
  }),
  z.strictObject({ ...changed, action: z.literal('remove'), replaces: content }),
]);

export const MOD_MANIFEST = 'mod.json';

export const modFile = z.strictObject({
  format: z.literal('zero-latch mod'),
  version: z.literal(1),
  name: z.string().min(1).max(120),
  release: z.string().max(60).default(''),
  author: z.string().max(200).default(''),
  notes: z.string().max(20_000).default(''),
  licence: z.string().max(200).default(''),
  /** A PNG in the ZIP. */
  picture: member.optional(),
  game: z.strictObject({ name: z.string().min(1).max(120), build: z.string().max(200).nullable() }),
  changes: z
    .array(modChange)
    .min(1)
    .max(100_000)
    .refine((all) => new Set(all.map((one) => one.path)).size === all.length, 'names a path twice'),
});
export type ModFile = z.output<typeof modFile>;
export type ModChange = ModFile['changes'][number];

/** What makes an entry of the game's own being less than this part of what makes it of nothing, most of it is the game's. */
export const MOSTLY_THE_GAMES = 0.5;
