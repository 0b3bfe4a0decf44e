/** LZ4 block format, without a frame: the plain size comes from the archive. */
import { compressSync, uncompressSync } from 'lz4-napi';
import { FormatError } from '../faults';
import type { Codec } from './codec';
import { checkedSize, overLimit } from './plain-size';

/** The most a block can grow: 255 bytes for each byte of a match length, plus the last literals. */
const MAX_RATIO = 255;

/** The library keeps the plain size in the four bytes before the block, little-endian. */
const SIZE_BYTES = 4;

export const lz4Block: Codec = {
  name: 'lz4-block',
  family: 'compression',
  about: 'One LZ4 block without a frame; its plain size must be known from the archive.',
  params: [],
  decode: (stored, context) => {
    const size = context.plainSize;
    if (size === undefined) {
      throw new FormatError({
        code: 'recipe-invalid',
        what: 'lz4-block needs the plain size',
        hint: 'State `size:` in entries, or `plain:` on the region.',
      });
    }
    if (size > context.maxPlainBytes) throw overLimit('lz4-block', context);
    if (size > stored.length * MAX_RATIO + 64) {
      throw new FormatError({
        code: 'size-differs',
        what: 'no LZ4 block can unpack that far',
        expected: `${size.toLocaleString('en')} bytes`,
        found: `a block of ${stored.length.toLocaleString('en')}`,
      });
    }
    if (size === 0 && stored.length <= 1) return new Uint8Array(0);
    const sized = Buffer.allocUnsafe(stored.length + SIZE_BYTES);
    sized.writeUInt32LE(size, 0);
    sized.set(stored, SIZE_BYTES);
    let plain: Uint8Array;
    try {
      plain = uncompressSync(sized);
    } catch (error) {
      throw new FormatError(
        {
          code: 'codec-failed',
          what: `lz4-block cannot unpack this stretch (${(error as Error).message})`,
          hint: 'The bytes may be damaged, locked, or packed another way.',
        },
        { cause: error },
      );
    }
    return checkedSize(plain, 'lz4-block', context);
  },
  encode: (plain) => compressSync(asBuffer(plain)).subarray(SIZE_BYTES),
};

function asBuffer(bytes: Uint8Array): Buffer {
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}
