/** What several stations speak of: kinds, faults, and paths in a request. */
import { z } from 'zod';

export const KIND_NAMES = ['picture', 'sound', 'film', 'words', 'mesh', 'records', 'bytes'] as const;

export type KindName = (typeof KIND_NAMES)[number];

/** The facts of a fault with its sentence; what the page shows. */
export interface FaultAnswer {
  readonly code: string;
  readonly sentence: string;
}

export const path = z.string().min(1).max(4096);

export const id = z.coerce.number().int().positive();

export const pathQuery = z.object({ path });
