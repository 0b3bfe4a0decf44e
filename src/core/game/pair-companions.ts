/** One entry in the place of another, with what belongs to each: which goes for which. */
import { kindOf } from './kinds';

export interface Pair {
  /** The entry that is replaced. */
  readonly path: string;
  /** The one that takes its place. */
  readonly from: string;
}

/**
 * What an entry uses, paired with what another uses: by its name once the one's is put for the other's, else by being the
 * only one of its ending on both sides.
 *
 * @returns the pairs, and what of the replaced entry stays as it is, since the other has nothing like it
 */
export function pairCompanions(
  main: Pair,
  uses: readonly string[],
  usesOfOther: readonly string[],
): { readonly pairs: readonly Pair[]; readonly stays: readonly string[] } {
  const [own, other] = [stemOf(main.path), stemOf(main.from)];
  const free = new Set(usesOfOther.filter((path) => path !== main.from));
  const left: string[] = [];
  const pairs: Pair[] = [];
  const take = (path: string, from: string | undefined) => {
    if (from === undefined) return false;
    free.delete(from);
    // The same entry on both sides is right as it is.
    if (from !== path) pairs.push({ path, from });
    return true;
  };
  for (const path of uses) {
    const renamed = lastOf(path).replaceAll(own, other);
    if (
      path === main.path ||
      take(
        path,
        [...free].find((one) => lastOf(one) === renamed),
      )
    )
      continue;
    left.push(path);
  }
  const stays = left.filter((path) => {
    const alike = (one: string) => endingOf(one) === endingOf(path) && kindOf(one) === kindOf(path);
    const [only, second] = [...free].filter(alike);
    return left.filter(alike).length > 1 || second !== undefined || !take(path, only);
  });
  return { pairs, stays };
}

const lastOf = (path: string) => path.slice(path.lastIndexOf('/') + 1).toLowerCase();
const stemOf = (path: string) => lastOf(path).replace(/\.[^.]*$/, '');
const endingOf = (path: string) => lastOf(path).slice(lastOf(path).lastIndexOf('.') + 1);
