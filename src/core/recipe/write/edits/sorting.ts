/** Tables that were sorted stay sorted. */
import { compareValues } from '../../formula/arithmetic';
import type { Value } from '../../formula/value';

export type SortKeys = readonly Value[];

function compareKeys(a: SortKeys, b: SortKeys): number {
  for (const [i, key] of a.entries()) {
    const order = compareValues(key, b[i]);
    if (order !== 0) return order;
  }
  return 0;
}

/** @returns true when no item comes before one with smaller keys */
export function isSorted(count: number, keysOf: (index: number) => SortKeys): boolean {
  let before: SortKeys | undefined;
  for (let i = 0; i < count; i++) {
    const keys = keysOf(i);
    if (before !== undefined && compareKeys(before, keys) > 0) return false;
    before = keys;
  }
  return true;
}

/** Positions in ascending order of their keys; those with equal keys stay as they are. */
export function sortedOrder(count: number, keysOf: (index: number) => SortKeys): Int32Array {
  const keys = Array.from({ length: count }, (_, i) => keysOf(i));
  const order = Int32Array.from({ length: count }, (_, i) => i);
  return order.sort((a, b) => compareKeys(keys[a]!, keys[b]!) || a - b);
}
