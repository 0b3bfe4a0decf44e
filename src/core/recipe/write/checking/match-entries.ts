/** Finding each entry that a plan is meant to hold among those that were read from it. */
import type { Recipe } from '../../model';
import type { OpenedArchive } from '../../read/opened-archive';
import { failed, type CheckSetting, type MeantEntries } from './meant';

/** True when the path of an entry says nothing but where it lies or which it is, so that it changes with its neighbours. */
function isNumbered({ entries: { path, hash, id } }: Recipe): boolean {
  if (path === undefined) return hash === undefined && id === undefined;
  return path.uses.layout;
}

/**
 * Finds each meant entry among those that were read.
 *
 * @returns the index of each
 * @throws FormatError when one is missing, is there twice, or has another name
 */
export function matchEntries(
  { recipe, meant, values }: CheckSetting,
  { entries }: OpenedArchive,
): (index: number) => number {
  if (entries.count !== meant.count)
    throw failed({
      what: 'it would hold another number of entries',
      expected: meant.count.toLocaleString('en'),
      found: entries.count.toLocaleString('en'),
    });
  const inOrder = (index: number) => index;
  if (isNumbered(recipe)) {
    checkNumbers(meant, entries);
    return inOrder;
  }
  let first = 0;
  while (first < meant.count && entries.path(first) === meant.at(first).path) first++;
  if (first === meant.count) return inOrder;
  if (values.length > 0 && isRenamedByValues(meant, entries, first)) return inOrder;
  const byPath = new Map<string, number[]>();
  for (let i = entries.count - 1; i >= first; i--) {
    const path = entries.path(i);
    const same = byPath.get(path);
    if (same === undefined) byPath.set(path, [i]);
    else same.push(i);
  }
  const lost: string[] = [];
  const found = Int32Array.from({ length: meant.count - first }, (_, i) => {
    const { path } = meant.at(first + i);
    const index = byPath.get(path)?.pop();
    if (index === undefined) lost.push(path);
    return index ?? -1;
  });
  if (lost.length === 0) return (index) => (index < first ? index : found[index - first]!);
  const stranger = [...byPath].find(([, left]) => left.length > 0);
  const line = lineOf(recipe);
  throw failed({
    what: NOT_FOUND_AGAIN,
    entry: lost[0]!,
    expected: lost[0]!,
    found: stranger?.[0] ?? 'nothing',
    ...(line === undefined ? {} : { line }),
  });
}

/** What is said of an entry whose path would be another. */
export const NOT_FOUND_AGAIN = 'an entry would not be found again';
/** What is said of an entry that cannot be added under the path it was given. */
export const KEEPS_NO_NAMES = 'the format keeps no names, and an added entry would be found under another path';

/** @throws FormatError when an added entry would not get the path it was added under */
function checkNumbers(meant: MeantEntries, entries: OpenedArchive['entries']): void {
  for (let i = 0; i < meant.count; i++) {
    const { path, base } = meant.at(i);
    if (base !== undefined || entries.path(i) === path) continue;
    throw failed({
      what: KEEPS_NO_NAMES,
      entry: path,
      expected: path,
      found: entries.path(i),
      hint: `Add it as ${entries.path(i)}.`,
    });
  }
}

/**
 * True when no more than the paths of kept entries differ, each still a path of its own: a field of the header that was
 * changed is in them, like the language of a table. What lies under each is compared in their order.
 */
function isRenamedByValues(meant: MeantEntries, entries: OpenedArchive['entries'], first: number): boolean {
  const paths = new Set<string>();
  for (let i = 0; i < meant.count; i++) paths.add(entries.path(i));
  if (paths.size !== meant.count) return false;
  for (let i = first; i < meant.count; i++) {
    const { path, base } = meant.at(i);
    if (base === undefined && entries.path(i) !== path) return false;
  }
  return true;
}

const lineOf = ({ entries: { path, hash } }: Recipe) => (path ?? hash)?.line;
