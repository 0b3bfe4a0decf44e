/** Mods of others, and making one of one's own changes. */
import { z } from 'zod';
import { type ChangeAction, type ChangeStatus } from './changes';

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

/** How a change went into a mod file, and why so. */
export const sharedFile = z.object({
  path: z.string(),
  as: z.enum(['whole', 'difference', 'gone', 'left out']),
  why: z.string(),
  bytes: z.number(),
});
export type SharedFile = Readonly<z.output<typeof sharedFile>>;

export interface ModAnswer {
  readonly id: number;
  readonly name: string;
  readonly version: string;
  readonly author: string;
  readonly notes: string;
  readonly licence: string;
  readonly hasPicture: boolean;
  /** The game and build it was made for. */
  readonly madeFor: string | null;
  readonly enabled: boolean;
  /** What of it could not be taken in, in sentences. */
  readonly leftOut: readonly string[];
  readonly total: number;
  /** Of very many, the first. */
  readonly changes: readonly { readonly path: string; readonly action: ChangeAction; readonly status: ChangeStatus }[];
}

export interface ModsAnswer {
  /** Of two that change the same, the later one holds. */
  readonly mods: readonly ModAnswer[];
  /** Paths that several change: by whom, and whose holds. */
  readonly conflicts: readonly { readonly path: string; readonly by: readonly string[]; readonly holds: string }[];
}

export const modEdit = z.strictObject({
  enabled: z.boolean().optional(),
  move: z.enum(['earlier', 'later']).optional(),
});
export type ModEdit = z.output<typeof modEdit>;
