/** Values in the words of faults. */
import { hexBytes } from '../../faults';
import { type Value, isPool, isStretch } from './value';
import { FormatError } from '../../faults';

/** A value as people read it in a message. */
export function showValue(value: Value): string {
  if (value === undefined) return 'nothing';
  // Sizes and places that are read before they are known.
  if (Number.isNaN(value)) return 'a number that is not known yet';
  if (typeof value === 'string') return JSON.stringify(value.length > 60 ? `${value.slice(0, 60)}…` : value);
  if (value instanceof Uint8Array) return hexBytes(value, 16);
  if (typeof value === 'number' || typeof value === 'bigint') return value.toLocaleString('en');
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (isPool(value)) return `${value.count.toLocaleString('en')} texts`;
  if (isStretch(value)) return `${value.length.toLocaleString('en')} bytes`;
  return 'length' in value ? `${value.length.toLocaleString('en')} rows` : `a ${value.shape.name}`;
}

/**
 * A whole number that can be an offset, a length or a count.
 *
 * @throws FormatError `must-differs` otherwise
 */
export function wholeNumber(value: Value, what: string): number {
  const number = typeof value === 'bigint' ? Number(value) : typeof value === 'boolean' ? Number(value) : value;
  if (typeof number === 'number' && Number.isSafeInteger(number) && number >= 0) return number;
  throw new FormatError({
    code: 'must-differs',
    what: `${what} is not a possible number`,
    expected: 'a whole number from 0 to 2^53',
    found: showValue(value),
  });
}
