/** A server thread for searches that want every core: name patterns over hashes, and keys in a file. */
import { HashTargets, parsePattern, searchPattern, type WordLists } from '../core/names';
import { compileRecipe, type Value } from '../core/recipe';

export interface PatternOrder {
  readonly pattern: string;
  readonly words: WordLists;
  /** The recipe whose rule hashes the paths. */
  readonly recipe: string;
  readonly targets: readonly Value[];
  readonly from: number;
  readonly to: number;
}

/** Matches of one search that are kept; a rule of few bits would match without end. */
const MAX_MATCHES = 1_000_000;

/** The paths of a range of a pattern whose hash is wanted. */
export async function searchNames(order: PatternOrder): Promise<string[]> {
  const hashing = compileRecipe(order.recipe).entries.hashing;
  if (hashing === undefined) return [];
  const found: string[] = [];
  const pattern = parsePattern(order.pattern, order.words);
  await searchPattern(pattern, hashing, new HashTargets(order.targets), order, (path) => {
    if (found.length < MAX_MATCHES) found.push(path);
  });
  return found;
}
