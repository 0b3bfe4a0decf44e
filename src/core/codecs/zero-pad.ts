import { copyOf } from '../bytes';
import { FormatError } from '../faults';
import type { Codec } from './codec';

/** The plain bytes with zeros behind them up to a multiple; the plain size comes from the archive. */
export const zeroPad: Codec = {
  name: 'zero-pad',
  family: 'cipher',
  about:
    'Zeros at the end up to a multiple of `step`; reading cuts them off where the plain size is known, or `size` says what is left.',
  params: [
    { name: 'step', type: 'number' },
    { name: 'size', type: 'number', otherwise: -1 },
  ],
  decode: (stored, { plainSize, params }) => {
    const given = Number(params['size'] ?? -1);
    const size = plainSize ?? (given < 0 ? stored.length : given);
    if (size <= stored.length) return stored.subarray(0, size);
    throw new FormatError({
      code: 'size-differs',
      what: 'fewer bytes are there than should be left without their padding',
      expected: `at least ${size.toLocaleString('en')} bytes`,
      found: stored.length.toLocaleString('en'),
    });
  },
  encode: (plain, { params }) => {
    const step = Math.max(1, Number(params['step']));
    const padded = new Uint8Array(Math.ceil(plain.length / step) * step);
    padded.set(copyOf(plain));
    return padded;
  },
};
