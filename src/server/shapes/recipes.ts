/** Recipes, and what the workbench says of one. */
import { z } from 'zod';
import { type FaultAnswer } from './common';

export interface RecipeAnswer {
  readonly id: string;
  readonly title: string;
  readonly revision: number;
  readonly needs: Readonly<Record<string, string>>;
  readonly text: string;
  /** Why the newest revision cannot be used; an older one stands in for it, if there is one. */
  readonly fault: FaultAnswer | null;
  /** True while nobody has saved a revision of their own. */
  readonly shipped: boolean;
  /** Older revisions and the one that ships, the newest first. */
  readonly revisions: readonly { readonly revision: number; readonly text: string; readonly savedAt: string | null }[];
}

/** The longest recipe text that is taken in. */
const MAX_RECIPE_CHARACTERS = 1 << 20;

export const recipeText = z.object({ text: z.string().min(1).max(MAX_RECIPE_CHARACTERS) });

export const recipeTry = recipeText.extend({
  gameId: z.number().int(),
  archiveId: z.number().int(),
  quick: z.boolean().optional(),
});

/** A fault with the recipe's line, and the place in the file. */
export interface PlacedFault extends FaultAnswer {
  readonly line: number | null;
  readonly at: number | null;
}

export interface CheckAnswer {
  readonly fault: PlacedFault | null;
}

export interface TriedField {
  readonly region: string;
  readonly shape: string;
  readonly row: number;
  readonly field: string;
  readonly at: number;
  readonly length: number;
  readonly volume: number;
  readonly unlocked: boolean;
  readonly value: string;
  readonly formula?: string;
  readonly must?: string;
  readonly line: number;
}

export interface TryAnswer {
  readonly fault: PlacedFault | null;
  readonly entries?: number;
  readonly paths?: readonly string[];
  readonly complaints?: readonly PlacedFault[];
  readonly proof?: {
    readonly bytes: { readonly explained: number; readonly total: number; readonly first: PlacedFault | null };
    readonly formulas: { readonly agree: number; readonly total: number; readonly first: PlacedFault | null };
    readonly identical: { readonly same: boolean; readonly first: PlacedFault | null };
    readonly changed: {
      readonly equal: number;
      readonly tested: number;
      readonly total: number;
      readonly first: PlacedFault | null;
    };
    readonly edits: {
      readonly done: number;
      readonly total: number;
      readonly holds: boolean;
      readonly refused: readonly {
        readonly what: string;
        readonly layout: string;
        readonly forbidden: boolean;
        readonly fault: PlacedFault;
      }[];
    };
  } | null;
  readonly regions?: readonly {
    readonly name: string;
    readonly line: number;
    readonly at: number;
    readonly length: number;
    readonly volume: number;
    readonly unlocked: boolean;
  }[];
  readonly fields?: readonly TriedField[];
  readonly unexplained?: readonly { readonly at: number; readonly length: number }[];
}

type Word = readonly [word: string, about: string];

/** Words of the recipe language, for completion. */
export interface VocabularyAnswer {
  readonly words: readonly Word[];
  readonly kinds: readonly Word[];
  readonly functions: readonly Word[];
  readonly steps: readonly Word[];
  readonly hashes: readonly Word[];
}

export interface HintsAnswer {
  readonly size: number;
  /** Bits a byte of equal stretches. */
  readonly randomness: readonly number[];
  readonly hints: readonly {
    readonly what: string;
    readonly at: number;
    readonly length: number;
    readonly lines: readonly {
      readonly part: 'match' | 'header' | 'row' | 'regions' | 'entries';
      readonly text: string;
    }[];
  }[];
}
