/** Bytes of an entry that the archive keeps elsewhere, such as in its index. */
import { FormatError, hexBytes } from '../faults';
import type { Codec, CodecContext } from './codec';
import { bytesOf } from './scramble';

const given = ({ params }: CodecContext) => bytesOf(params, 'bytes', 0);

/** The given bytes are in front of the plain ones and are not stored with them. */
export const inFront: Codec = {
  name: 'in-front',
  family: 'compression',
  about: 'The plain bytes begin with `bytes`, which are stored elsewhere; the stored ones are the rest.',
  params: [{ name: 'bytes', type: 'bytes' }],
  decode: (stored, context) => new Uint8Array(Buffer.concat([given(context), stored])),
  encode: (plain, context) => {
    const front = given(context);
    if (Buffer.compare(plain.subarray(0, front.length), front) === 0) return plain.slice(front.length);
    throw new FormatError({
      code: 'codec-failed',
      what: 'the first bytes are not those that are stored elsewhere',
      expected: hexBytes(front, 12),
      found: hexBytes(plain.subarray(0, front.length), 12),
    });
  },
};
