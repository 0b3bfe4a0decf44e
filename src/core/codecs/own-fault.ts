/** The faults of the decoders written here: which one, what, and at which byte of the stretch. */
import { FormatError } from '../faults';

/** A stretch that a decoder cannot read. */
export function broken(name: string, what: string, at: number): FormatError {
  return new FormatError({
    code: 'codec-failed',
    what: `${name} cannot unpack this stretch (${what}, at byte ${at.toLocaleString('en')} of it)`,
    hint: 'The bytes may be damaged, locked, or packed another way.',
  });
}

/** A parameter that no stretch can have been packed with. */
export function unfitParameter(name: string, parameter: string, expected: string, found: unknown): FormatError {
  return new FormatError({
    code: 'codec-failed',
    what: `${name} cannot work with this ${parameter}`,
    expected,
    found: String(found),
  });
}
