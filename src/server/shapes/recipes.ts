/** Recipes, and what the workbench says of one. */
import { z } from 'zod';
import { faultAnswer } from './common';

export const recipeAnswer = z.object({
  id: z.string(),
  title: z.string(),
  revision: z.number(),
  /** Of a game or an engine; null for open formats. */
  collection: z.string().nullable(),
  needs: z.record(z.string(), z.string()),
  text: z.string(),
  /** Why the newest revision cannot be used; an older one replaces it, if there is one. */
  fault: faultAnswer.nullable(),
  /** True while there is no revision saved by a user. */
  shipped: z.boolean(),
  /** Where the newest saved revision counts; null while there is none. */
  scope: z.object({ games: z.array(z.number()).readonly(), everywhere: z.boolean() }).nullable(),
  /** Older revisions and the one that ships, the newest first. */
  revisions: z
    .array(
      z.object({
        revision: z.number(),
        text: z.string(),
        savedAt: z.string().nullable(),
      }),
    )
    .readonly(),
});
export type RecipeAnswer = Readonly<z.output<typeof recipeAnswer>>;

/** The longest recipe text that is taken in. */
const MAX_RECIPE_CHARACTERS = 1 << 20;

export const recipeText = z.object({ text: z.string().min(1).max(MAX_RECIPE_CHARACTERS) });

/** A recipe to save: for one game, or for all where none is named. */
export const recipeToSave = recipeText.extend({
  game: z.number().int().optional(),
  everywhere: z.boolean().optional(),
});

/** Recipes that are passed on together. */
export const collectionAnswer = z.object({
  recipes: z.array(z.object({ id: z.string(), revision: z.number(), text: z.string() })).readonly(),
});
export type CollectionAnswer = Readonly<z.output<typeof collectionAnswer>>;

const MOST_RECIPES = 1_000;

export const collectionToSave = z.object({
  texts: z.array(recipeText.shape.text).min(1).max(MOST_RECIPES).readonly(),
  everywhere: z.boolean(),
});

export const collectionTaken = z.object({
  /** Ids of what was saved. */
  saved: z.array(z.string()).readonly(),
  leftOut: z.array(z.object({ id: z.string(), reason: z.string() })).readonly(),
});
export type CollectionTaken = Readonly<z.output<typeof collectionTaken>>;

export const recipeTry = recipeText.extend({
  gameId: z.number().int(),
  archiveId: z.number().int(),
  quick: z.boolean().optional(),
});

/** A fault with the recipe's line, and the place in the file. */
export const placedFault = faultAnswer.extend({
  line: z.number().nullable(),
  at: z.number().nullable(),
});
export type PlacedFault = Readonly<z.output<typeof placedFault>>;

export const checkAnswer = z.object({
  fault: placedFault.nullable(),
});
export type CheckAnswer = Readonly<z.output<typeof checkAnswer>>;

export const triedField = z.object({
  region: z.string(),
  shape: z.string(),
  row: z.number(),
  field: z.string(),
  at: z.number(),
  length: z.number(),
  volume: z.number(),
  unlocked: z.boolean(),
  value: z.string(),
  formula: z.string().optional(),
  must: z.string().optional(),
  line: z.number(),
});
export type TriedField = Readonly<z.output<typeof triedField>>;

export const tryAnswer = z.object({
  fault: placedFault.nullable(),
  entries: z.number().optional(),
  paths: z.array(z.string()).readonly().optional(),
  complaints: z.array(placedFault).readonly().optional(),
  proof: z
    .object({
      bytes: z.object({
        explained: z.number(),
        total: z.number(),
        first: placedFault.nullable(),
      }),
      formulas: z.object({
        agree: z.number(),
        total: z.number(),
        first: placedFault.nullable(),
      }),
      identical: z.object({
        same: z.boolean(),
        first: placedFault.nullable(),
      }),
      changed: z.object({
        equal: z.number(),
        tested: z.number(),
        total: z.number(),
        first: placedFault.nullable(),
      }),
      edits: z.object({
        done: z.number(),
        total: z.number(),
        holds: z.boolean(),
        refused: z
          .array(
            z.object({
              what: z.string(),
              layout: z.string(),
              forbidden: z.boolean(),
              fault: placedFault,
            }),
          )
          .readonly(),
      }),
    })
    .nullable()
    .optional(),
  regions: z
    .array(
      z.object({
        name: z.string(),
        line: z.number(),
        at: z.number(),
        length: z.number(),
        volume: z.number(),
        unlocked: z.boolean(),
      }),
    )
    .readonly()
    .optional(),
  fields: z.array(triedField).readonly().optional(),
  unexplained: z
    .array(
      z.object({
        at: z.number(),
        length: z.number(),
      }),
    )
    .readonly()
    .optional(),
});
export type TryAnswer = Readonly<z.output<typeof tryAnswer>>;

const word = z.tuple([z.string(), z.string()]).readonly();

/** Words of the recipe language, for completion. */
export const vocabularyAnswer = z.object({
  words: z.array(word).readonly(),
  kinds: z.array(word).readonly(),
  functions: z.array(word).readonly(),
  steps: z.array(word).readonly(),
  hashes: z.array(word).readonly(),
});
export type VocabularyAnswer = Readonly<z.output<typeof vocabularyAnswer>>;

export const hintsAnswer = z.object({
  size: z.number(),
  /** Bits a byte of equal stretches. */
  randomness: z.array(z.number()).readonly(),
  hints: z
    .array(
      z.object({
        what: z.string(),
        at: z.number(),
        length: z.number(),
        lines: z
          .array(
            z.object({
              part: z.enum(['match', 'header', 'row', 'regions', 'entries']),
              text: z.string(),
            }),
          )
          .readonly(),
      }),
    )
    .readonly(),
});
export type HintsAnswer = Readonly<z.output<typeof hintsAnswer>>;
