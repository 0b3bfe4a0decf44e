/** A hint: something found in a file, and what a recipe would say of it. */

/** Lines for a recipe, and the part they belong to. */
export interface RecipeLines {
  readonly part: 'match' | 'header' | 'row' | 'regions' | 'entries';
  readonly text: string;
}

export interface Hint {
  readonly what: string;
  readonly at: number;
  readonly length: number;
  readonly lines: readonly RecipeLines[];
}

export const MOST_BETWEEN_NAMES = 512;

export const hex = (value: number) => `0x${value.toString(16).toUpperCase()}`;

export const number = (value: number) => value.toLocaleString('en');
