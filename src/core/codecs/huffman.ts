/** Bytes in Huffman codes: by lengths that the recipe knows, or that are in front. */
import { FormatError } from '../faults';
import { BitReader, BitWriter, type BitOrder } from './bit-io';
import type { Codec, CodecContext } from './codec';
import { codeLengths, HuffmanCoder, HuffmanReader } from './huffman-code';
import { broken, unfitParameter } from './own-fault';
import { PlainOutput } from './plain-output';

const NAME = 'huffman';
const NONE = new Uint8Array(0);
/** The longest code that four bits can tell of. */
const LONGEST = 15;

const orderOf = ({ params }: CodecContext): BitOrder => (params['bits'] === 'low' ? 'low' : 'high');
const givenOf = ({ params }: CodecContext): Uint8Array => (params['lengths'] as Uint8Array | undefined) ?? NONE;

function countsOf(plain: Uint8Array): number[] {
  const counts = Array.from({ length: 256 }, () => 0);
  for (const byte of plain) counts[byte]!++;
  return counts;
}

/** The lengths, and how many bytes tell them. */
function lengthsOf(stored: Uint8Array, context: CodecContext): { lengths: number[]; at: number } {
  const given = givenOf(context);
  if (given.length > 0) return { lengths: checkedLengths([...given]), at: 0 };
  const packed = context.params['kept'] === 'nibbles';
  const at = packed ? 128 : 256;
  if (stored.length < at) throw broken(NAME, 'the stretch ends within its code lengths', stored.length);
  const front = stored.subarray(0, at);
  return { lengths: packed ? [...front].flatMap((byte) => [byte >> 4, byte & 15]) : checkedLengths([...front]), at };
}

function checkedLengths(lengths: number[]): number[] {
  if (lengths.length > 256) throw unfitParameter(NAME, 'row of lengths', 'at most 256', lengths.length);
  const long = lengths.find((length) => length > 24);
  if (long !== undefined) throw unfitParameter(NAME, 'code length', 'at most 24 bits', long);
  return lengths;
}

export const huffman: Codec = {
  name: NAME,
  family: 'compression',
  about:
    'Canonical Huffman codes of bytes: their lengths are given (`lengths`, a byte each), or come first as 256 bytes or 128 of two `nibbles`. The plain size comes from the archive.',
  params: [
    { name: 'lengths', type: 'bytes', otherwise: NONE },
    { name: 'kept', type: 'word', words: ['bytes', 'nibbles'], otherwise: 'bytes' },
    { name: 'bits', type: 'word', words: ['high', 'low'], otherwise: 'high' },
  ],
  decode: (stored, context) => {
    if (context.plainSize === undefined)
      throw new FormatError({
        code: 'recipe-invalid',
        what: 'huffman needs the plain size',
        hint: 'State `size:` in entries, or `plain:` on the region.',
      });
    const out = new PlainOutput(NAME, context);
    if (stored.length === 0) return out.finish();
    const { lengths, at } = lengthsOf(stored, context);
    const reader = new HuffmanReader(lengths, NAME);
    const bits = new BitReader(stored, orderOf(context), NAME, at);
    while (!out.isFull) out.byte(reader.read(bits));
    return out.finish();
  },
  encode: (plain, context) => {
    const given = givenOf(context);
    if (plain.length === 0) return NONE;
    const lengths = given.length > 0 ? checkedLengths([...given]) : codeLengths(countsOf(plain), LONGEST);
    const coder = new HuffmanCoder(lengths);
    const bits = new BitWriter(orderOf(context));
    for (const byte of plain) {
      if (!coder.has(byte))
        throw new FormatError({
          code: 'layout-impossible',
          what: 'the code lengths of huffman have no code for a byte',
          found: `0x${byte.toString(16).padStart(2, '0')}`,
          hint: 'The format cannot hold this byte with these lengths.',
        });
      coder.write(bits, byte);
    }
    if (given.length > 0) return bits.finish();
    const front =
      context.params['kept'] === 'nibbles'
        ? Uint8Array.from({ length: 128 }, (_, i) => (lengths[2 * i]! << 4) | lengths[2 * i + 1]!)
        : Uint8Array.from(lengths);
    return Buffer.concat([front, bits.finish()]);
  },
};
