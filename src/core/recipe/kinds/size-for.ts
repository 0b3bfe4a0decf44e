import { type Scope } from '../formula/value';
import { wholeNumber } from '../formula/show-value';
import type { Formula } from '../model';

/**
 * The size of a field for a value of a length in bytes. A size that another field stores may follow from the value: until the
 * layout has settled, the value is written as long as it is.
 */
export function sizeFor(length: number, constant: number | undefined, formula: Formula, scope: Scope): number {
  if (constant !== undefined) return constant;
  if (scope.unsized) return length;
  const size = wholeNumber(formula.evaluate(scope), 'the size of the field');
  if (size >= length || scope.unfitCount === undefined) return size;
  scope.unfitCount++;
  return length;
}
