/** The order in which a game loads its archives: of one path in several, the last wins. */
import { z } from 'zod';

export const loadOrderRule = z.discriminatedUnion('by', [
  /** Names without their endings, in the order of their characters. */
  z.strictObject({ by: z.literal('name') }),
  /** The base first, then what has one of these behind its name, in this order: `core.hold`, `core_patch.hold`. */
  z.strictObject({ by: z.literal('suffix'), suffixes: z.array(z.string().min(1).max(64)).min(1).max(50) }),
  /** The last number in the name, the lowest first; names without one come before. */
  z.strictObject({ by: z.literal('number') }),
  /** A text file of the game with one archive a line, the last wins; what it does not name comes before. */
  z.strictObject({ by: z.literal('list'), file: z.string().min(1).max(4096) }),
]);
export type LoadOrderRule = z.output<typeof loadOrderRule>;

export const DEFAULT_ORDER: LoadOrderRule = { by: 'name' };

/**
 * Paths in the order they load.
 *
 * @param byHand archives someone put in an order of their own: they keep the places they have among each other
 * @param list the text of the list file, where the rule is one
 */
export function inLoadOrder(
  paths: readonly string[],
  rule: LoadOrderRule,
  { byHand = [], list = '' }: { byHand?: readonly string[]; list?: string } = {},
): string[] {
  const sorted = [...paths].sort(compareBy(rule, list));
  const wanted = byHand.filter((path) => sorted.includes(path));
  if (wanted.length === 0) return sorted;
  // The places that ordered archives have among the others are filled with them in the person's order.
  const own = new Set(wanted);
  let next = 0;
  return sorted.map((path) => (own.has(path) ? wanted[next++]! : path));
}

type Compare = (a: string, b: string) => number;

function compareBy(rule: LoadOrderRule, list: string): Compare {
  switch (rule.by) {
    case 'name':
      return byStem;
    case 'number':
      return (a, b) => lastNumber(a) - lastNumber(b) || byStem(a, b);
    case 'suffix':
      return (a, b) => suffixRank(a, rule.suffixes) - suffixRank(b, rule.suffixes) || byStem(a, b);
    case 'list': {
      const places = new Map(listed(list).map((name, place) => [name, place]));
      const placeOf = (path: string) =>
        places.get(path.toLowerCase()) ?? places.get(path.toLowerCase().slice(path.lastIndexOf('/') + 1)) ?? -1;
      return (a, b) => placeOf(a) - placeOf(b) || byStem(a, b);
    }
  }
}

/** Lines of a list file; comments (`#`, `;`, `//`) and empty lines are skipped. */
function listed(text: string): string[] {
  return text
    .split(/\r?\n/)
    .map((line) => line.replace(/(^|\s)(#|;|\/\/).*$/, '').trim())
    .filter((line) => line !== '')
    .map((line) => line.replaceAll('\\', '/').toLowerCase());
}

/** Without the ending, so that a patch of `core.hold` called `core-spring.hold` comes behind it. */
export function stemOf(path: string): string {
  return path.replace(/\.[^./]*$/, '');
}

function byStem(a: string, b: string): number {
  const [x, y] = [stemOf(a), stemOf(b)];
  return x < y ? -1 : x > y ? 1 : a < b ? -1 : a > b ? 1 : 0;
}

function lastNumber(path: string): number {
  const name = stemOf(path.slice(path.lastIndexOf('/') + 1));
  return Number(/(\d{1,9})\D*$/.exec(name)?.[1] ?? -1);
}

function suffixRank(path: string, suffixes: readonly string[]): number {
  const stem = stemOf(path).toLowerCase();
  return suffixes.findIndex((suffix) => stem.endsWith(suffix.toLowerCase()));
}
