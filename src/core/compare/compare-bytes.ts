/** Two runs of bytes laid next to each other. */

/** A stretch where they differ: so many bytes on the left represent so many on the right. */
export interface Difference {
  readonly left: number;
  readonly leftLength: number;
  readonly right: number;
  readonly rightLength: number;
}

export interface BytesCompared {
  readonly same: boolean;
  /** Bytes both begin and end with. */
  readonly start: number;
  readonly end: number;
  /** In order; no more than {@link MOST_DIFFERENCES}. */
  readonly differences: readonly Difference[];
  readonly cut: boolean;
}

export const MOST_DIFFERENCES = 2_000;
/** Equal bytes between two differences that do not part them. */
const JOIN = 4;

/**
 * What both begin and end with is laid next to each other. In between, bytes are compared one by one where there are as many
 * on both sides; otherwise the whole of it differs.
 */
export function compareBytes(left: Uint8Array, right: Uint8Array): BytesCompared {
  const shorter = Math.min(left.length, right.length);
  let start = 0;
  while (start < shorter && left[start] === right[start]) start++;
  if (start === shorter && left.length === right.length)
    return { same: true, start, end: 0, differences: [], cut: false };
  let end = 0;
  while (end < shorter - start && left[left.length - 1 - end] === right[right.length - 1 - end]) end++;
  const [leftLength, rightLength] = [left.length - start - end, right.length - start - end];
  if (leftLength !== rightLength)
    return {
      same: false,
      start,
      end,
      differences: [{ left: start, leftLength, right: start, rightLength }],
      cut: false,
    };
  const { stretches, cut } = stretchesOf(left, right, start, left.length - end);
  return {
    same: false,
    start,
    end,
    differences: stretches.map(([at, length]) => ({ left: at, leftLength: length, right: at, rightLength: length })),
    cut,
  };
}

function stretchesOf(
  left: Uint8Array,
  right: Uint8Array,
  from: number,
  to: number,
): { stretches: [at: number, length: number][]; cut: boolean } {
  const stretches: [number, number][] = [];
  for (let at = from; at < to; at++) {
    if (left[at] === right[at]) continue;
    const last = stretches.at(-1);
    if (last !== undefined && at - (last[0] + last[1]) <= JOIN) last[1] = at + 1 - last[0];
    else if (stretches.length === MOST_DIFFERENCES) return { stretches, cut: true };
    else stretches.push([at, 1]);
  }
  return { stretches, cut: false };
}
