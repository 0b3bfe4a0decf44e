/** Rows of numbers in so many bits each, one after the other across bytes, as rows of whole bytes. */
import { BitReader, BitWriter, type BitOrder } from './bit-io';
import type { Codec, CodecContext } from './codec';
import { unfitParameter } from './own-fault';
import { overLimit } from './plain-size';
import { FormatError } from '../faults';

const NAME = 'unpack-bits';
/** Bits that are moved at once. */
const PIECE = 16;

/** Bits of each number of a row, and the bytes it takes when unpacked: 1, 2, 4 or 8. */
interface Width {
  readonly bits: number;
  readonly bytes: number;
}

function widthsOf({ params }: CodecContext): Width[] {
  const given = params['widths'];
  const widths = given instanceof Uint8Array ? [...given] : [Number(given)];
  const wrong = widths.find((bits) => !Number.isInteger(bits) || bits < 1 || bits > 64);
  if (wrong !== undefined || widths.length === 0)
    throw unfitParameter(NAME, 'widths', '1 to 64 bits each', wrong ?? 'none');
  return widths.map((bits) => ({ bits, bytes: [1, 2, 4, 8].find((bytes) => bytes * 8 >= bits)! }));
}

const orderOf = ({ params }: CodecContext): BitOrder => (params['bits'] === 'high' ? 'high' : 'low');
const sum = (numbers: readonly number[]) => numbers.reduce((total, one) => total + one, 0);

export const bitRows: Codec = {
  name: NAME,
  family: 'cipher',
  about:
    'Rows of numbers in `widths` bits each (one number, or a byte for each of a row), across bytes, from the `low` bit of each byte on or from the `high` one. Plain, each is 1, 2, 4 or 8 bytes, little-endian. Without a plain size there are as many rows as whole ones fit.',
  params: [
    { name: 'widths', type: 'any' },
    { name: 'bits', type: 'word', words: ['low', 'high'], otherwise: 'low' },
  ],
  decode: (stored, context) => {
    const widths = widthsOf(context);
    const order = orderOf(context);
    const rowBits = sum(widths.map(({ bits }) => bits));
    const rowBytes = sum(widths.map(({ bytes }) => bytes));
    const fitting = Math.floor((stored.length * 8) / rowBits);
    const rows = context.plainSize === undefined ? fitting : Math.floor(context.plainSize / rowBytes);
    if (rows > fitting || (context.plainSize !== undefined && rows * rowBytes !== context.plainSize))
      throw new FormatError({
        code: 'size-differs',
        what: `${NAME} gives another size than the archive says`,
        expected: `${(context.plainSize ?? 0).toLocaleString('en')} bytes`,
        found: `${fitting.toLocaleString('en')} rows of ${rowBytes}`,
      });
    if (rows * rowBytes > context.maxPlainBytes) throw overLimit(NAME, context);
    const plain = new Uint8Array(rows * rowBytes);
    const reader = new BitReader(stored, order, NAME);
    let at = 0;
    for (let row = 0; row < rows; row++)
      for (const { bits, bytes } of widths) {
        let value = 0n;
        for (let done = 0; done < bits;) {
          const count = Math.min(PIECE, bits - done);
          const piece = BigInt(reader.bits(count));
          value = order === 'low' ? value | (piece << BigInt(done)) : (value << BigInt(count)) | piece;
          done += count;
        }
        for (let i = 0; i < bytes; i++) plain[at++] = Number((value >> BigInt(8 * i)) & 0xffn);
      }
    return plain;
  },
  encode: (plain, context) => {
    const widths = widthsOf(context);
    const order = orderOf(context);
    const rowBytes = sum(widths.map(({ bytes }) => bytes));
    if (plain.length % rowBytes !== 0)
      throw new FormatError({
        code: 'layout-impossible',
        what: `${NAME} packs whole rows`,
        expected: `a length that ${rowBytes} divides`,
        found: `${plain.length.toLocaleString('en')} bytes`,
      });
    const writer = new BitWriter(order);
    for (let at = 0; at < plain.length;)
      for (const { bits, bytes } of widths) {
        let value = 0n;
        for (let i = 0; i < bytes; i++) value |= BigInt(plain[at++]!) << BigInt(8 * i);
        if (value >> BigInt(bits) !== 0n)
          throw new FormatError({
            code: 'layout-impossible',
            what: 'a number does not fit its bits',
            expected: `at most ${((1n << BigInt(bits)) - 1n).toLocaleString('en')}`,
            found: value.toLocaleString('en'),
          });
        for (let done = 0; done < bits;) {
          const count = Math.min(PIECE, bits - done);
          const shift = order === 'low' ? done : bits - done - count;
          writer.bits(Number((value >> BigInt(shift)) & ((1n << BigInt(count)) - 1n)), count);
          done += count;
        }
      }
    return writer.finish();
  },
};
