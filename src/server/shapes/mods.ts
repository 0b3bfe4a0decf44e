/** Mods of others, and making one of one's own changes. */
import { noteSchema } from '../../core/notes';
import { z } from 'zod';
import { CHANGE_ACTIONS, changeStatus } from './changes';

export const shareOrder = z.strictObject({
  name: z.string().trim().min(1).max(120),
  release: z.string().max(60).default(''),
  author: z.string().max(200).default(''),
  notes: z.string().max(20_000).default(''),
  licence: z.string().max(200).default(''),
  /** The blob of a picture that was sent before. */
  picture: z
    .string()
    .regex(/^[0-9a-f]{64}$/)
    .optional(),
  /** What is mostly the game's goes as a difference; without it, it is left out. */
  differences: z.boolean().default(true),
});
export type ShareOrder = z.output<typeof shareOrder>;

/** How a change went into a mod file, and why. */
export const sharedFile = z.object({
  path: z.string(),
  as: z.enum(['whole', 'difference', 'gone', 'left out']),
  reason: noteSchema,
  bytes: z.number(),
});
export type SharedFile = Readonly<z.output<typeof sharedFile>>;

export const modAnswer = z.object({
  id: z.number(),
  name: z.string(),
  version: z.string(),
  author: z.string(),
  notes: z.string(),
  licence: z.string(),
  hasPicture: z.boolean(),
  /** The game and build it was made for. */
  madeFor: z.string().nullable(),
  enabled: z.boolean(),
  /** What of it could not be taken in, in sentences. */
  leftOut: z.array(z.string()).readonly(),
  total: z.number(),
  /** Of very many, the first. */
  changes: z
    .array(
      z.object({
        path: z.string(),
        action: z.enum(CHANGE_ACTIONS),
        status: changeStatus,
      }),
    )
    .readonly(),
});
export type ModAnswer = Readonly<z.output<typeof modAnswer>>;

export const modsAnswer = z.object({
  /** Of two that change the same, the later one holds. */
  mods: z.array(modAnswer).readonly(),
  /** Paths that several change: by whom, and whose holds. */
  conflicts: z
    .array(
      z.object({
        path: z.string(),
        by: z.array(z.string()).readonly(),
        holds: z.string(),
      }),
    )
    .readonly(),
});
export type ModsAnswer = Readonly<z.output<typeof modsAnswer>>;

export const modEdit = z.strictObject({
  enabled: z.boolean().optional(),
  move: z.enum(['earlier', 'later']).optional(),
});
export type ModEdit = z.output<typeof modEdit>;
