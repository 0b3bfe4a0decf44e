/** A recipe's text: YAML, checked against the schema, with the line of every part kept for messages. */
import type { z } from 'zod';
import { FormatError, sayIssue } from '../../faults';
import { withListing } from './folder-text';
import { withoutEntries } from './form-text';
import { quoteCalls } from './quote-calls';
import { recipeSchema, type RecipeText } from './schema';
import { readYaml, type TextPath } from './yaml-text';

export interface ParsedText {
  readonly recipe: RecipeText;
  /** The 1-based line where a part is; the nearest parent's when the part itself is not written out. */
  lineOf(path: TextPath): number;
}

/** The longest recipe text that is read. */
const MAX_TEXT_LENGTH = 1 << 20;

/**
 * Reads and checks a recipe's text.
 *
 * @throws FormatError `recipe-invalid` with the line
 */
export function parseRecipeText(text: string): ParsedText {
  if (text.length > MAX_TEXT_LENGTH) {
    throw new FormatError({
      code: 'recipe-invalid',
      what: 'the text is too long',
      limit: `${MAX_TEXT_LENGTH} characters`,
    });
  }
  const { plain, lineOf } = readYaml(quoteCalls(text));
  const checked = recipeSchema.safeParse(withoutEntries(withListing(plain)), { reportInput: true });
  if (!checked.success) throw schemaFault(checked.error.issues[0]!, lineOf);
  return { recipe: checked.data, lineOf };
}

function schemaFault(issue: z.core.$ZodIssue, lineOf: (path: TextPath) => number): FormatError {
  // A union reports every member's complaint; the one that got furthest is what the writer meant.
  let deepest = issue;
  let path = [...issue.path] as (string | number)[];
  while (deepest.code === 'invalid_union' && deepest.errors.length > 0) {
    const inner = deepest.errors.flat().sort((a, b) => weight(b) - weight(a))[0];
    if (inner === undefined) break;
    path = [...path, ...(inner.path as (string | number)[])];
    deepest = inner;
  }
  const unknown = deepest.code === 'unrecognized_keys' ? deepest.keys : undefined;
  const where = unknown === undefined ? path : [...path, unknown[0]!];
  return new FormatError({
    code: 'recipe-invalid',
    line: lineOf(where),
    what: `${path.join('.') || 'the recipe'} ${sayIssue(deepest)}`,
    ...(unknown !== undefined ? { hint: 'docs/recipes.md lists the words that are allowed here.' } : {}),
  });
}

function weight(issue: z.core.$ZodIssue): number {
  return issue.path.length * 2 + (issue.code === 'unrecognized_keys' ? 1 : 0);
}
