/** The step for what a recipe knows of but does not describe: nothing is read as if it were plain. */
import { FormatError } from '../faults';
import type { Codec } from './codec';

function refuse(): never {
  throw new FormatError({
    code: 'codec-failed',
    what: 'it is packed in a way that the recipe does not describe',
    hint: 'It can be kept or removed, but not read or changed.',
  });
}

/** @throws FormatError `codec-failed`, both ways */
export const unknownPacking: Codec = {
  name: 'unknown',
  family: 'compression',
  about: 'Packed in a way that the recipe does not describe: refused, and never read as plain bytes.',
  params: [],
  decode: refuse,
  encode: refuse,
};
