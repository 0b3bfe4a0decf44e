import { copyOf } from '../bytes';
import type { Codec } from './codec';

/** The plain bytes with zeros behind them up to a multiple; the plain size comes from the archive. */
export const zeroPad: Codec = {
  name: 'zero-pad',
  family: 'cipher',
  about: 'Zeros at the end up to a multiple of `step`; reading cuts them off where the plain size is known.',
  params: [{ name: 'step', type: 'number' }],
  decode: (stored, { plainSize }) => (plainSize === undefined ? stored : stored.subarray(0, plainSize)),
  encode: (plain, { params }) => {
    const step = Math.max(1, Number(params['step']));
    const padded = new Uint8Array(Math.ceil(plain.length / step) * step);
    padded.set(copyOf(plain));
    return padded;
  },
};
