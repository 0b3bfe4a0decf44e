/** Recipes as one file to pass on: a ZIP of their texts, with a manifest. */
import { z } from 'zod';

/** The entry with the manifest. */
export const COLLECTION_MANIFEST = 'collection.json';

export const collectionManifest = z.strictObject({
  format: z.literal('zero-latch recipes'),
  version: z.literal(1),
  /** The game they were used in. */
  title: z.string().min(1).max(200),
  recipes: z
    .array(
      z.strictObject({
        /** The entry with its text. */
        file: z.string().min(1).max(400),
        id: z.string().min(1).max(200),
        revision: z.number().int().min(1),
      }),
    )
    .max(1000),
});
export type CollectionManifest = z.output<typeof collectionManifest>;
