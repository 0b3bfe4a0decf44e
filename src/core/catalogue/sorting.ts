/** Sorts rows by a number each, without comparing objects. */

const DIGIT_BITS = 16;
const DIGITS = 1 << DIGIT_BITS;

/**
 * The rows from the smallest value to the largest; equal ones stay in order (radix sort, lowest digit first).
 *
 * @param values whole numbers from 0 to 2^53 − 1
 */
export function rowsByValue(values: ArrayLike<number>): Uint32Array {
  const count = values.length;
  let rows = Uint32Array.from({ length: count }, (_, i) => i);
  let other = new Uint32Array(count);
  let largest = 0;
  for (let i = 0; i < count; i++) largest = Math.max(largest, values[i]!);
  for (let step = 1; step <= largest; step *= DIGITS) {
    const starts = new Uint32Array(DIGITS + 1);
    const digit = (row: number) => Math.floor(values[row]! / step) % DIGITS;
    for (let i = 0; i < count; i++) starts[digit(i) + 1]!++;
    for (let i = 0; i < DIGITS; i++) starts[i + 1]! += starts[i]!;
    for (let i = 0; i < count; i++) {
      const row = rows[i]!;
      other[starts[digit(row)]!++] = row;
    }
    [rows, other] = [other, rows];
  }
  return rows;
}
