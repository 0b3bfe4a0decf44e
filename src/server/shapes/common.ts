/** What several stations speak of: kinds, faults, and paths in a request. */
import { z } from 'zod';
import { KINDS } from '../../core/game/kind-names';

export const KIND_NAMES = KINDS;

export type KindName = (typeof KIND_NAMES)[number];

/** The facts of a fault with its sentence; what the page shows. */
export const faultAnswer = z.object({
  code: z.string(),
  sentence: z.string(),
});
export type FaultAnswer = Readonly<z.output<typeof faultAnswer>>;

export const path = z.string().min(1).max(4096);

export const id = z.coerce.number().int().positive();

/** A number in an address. */
export const numberText = z.coerce.number().int().min(0);

export const pathQuery = z.object({ path });

/** What a file in the body of a request is called. */
export const fileName = z.object({
  name: z
    .string()
    .min(1)
    .transform((text) => text.slice(0, 200)),
});
