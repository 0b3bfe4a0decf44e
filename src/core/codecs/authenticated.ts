/** AES in modes that need more than an IV: GCM (NIST SP 800-38D) with its tag, XTS (IEEE 1619) with its units. */
import { createCipheriv, createDecipheriv } from 'node:crypto';
import { copyOf } from '../bytes';
import { FormatError } from '../faults';
import type { Codec, CodecContext, ParamSpec } from './codec';

const BLOCK = 16;
const NOTHING = new Uint8Array(0);

const bytes = ({ params }: CodecContext, name: string) => (params[name] as Uint8Array | undefined) ?? NOTHING;

function gcm(bits: 128 | 192 | 256): Codec {
  const name = `aes-${bits}-gcm` as const;
  const tagged = (context: CodecContext): { length: number; isFirst: boolean } => {
    const length = Number(context.params['tag'] ?? BLOCK);
    if (![0, 4, 8, 12, 13, 14, 15, 16].includes(length))
      throw new FormatError({
        code: 'codec-failed',
        what: `a tag of ${name} has another length`,
        expected: '4, 8, 12 to 16 bytes, or 0 for none',
        found: String(length),
      });
    return { length, isFirst: context.params['place'] === 'front' };
  };
  return {
    name,
    family: 'cipher',
    about: `AES with a ${bits}-bit key in GCM; a tag of \`tag\` bytes follows the data or precedes it and is checked (0: none); \`with\` is authenticated too.`,
    params: [
      { name: 'key', type: 'key', length: bits / 8 },
      { name: 'iv', type: 'bytes' },
      { name: 'tag', type: 'number', otherwise: BLOCK },
      { name: 'place', type: 'word', words: ['behind', 'front'], otherwise: 'behind' },
      { name: 'with', type: 'bytes', otherwise: NOTHING },
    ],
    decode: (stored, context) => {
      const { length, isFirst } = tagged(context);
      if (stored.length < length)
        throw new FormatError({ code: 'codec-failed', what: `the stretch is shorter than the tag of ${name}` });
      const tag = isFirst ? stored.subarray(0, length) : stored.subarray(stored.length - length);
      const body = isFirst ? stored.subarray(length) : stored.subarray(0, stored.length - length);
      const machine = createDecipheriv(name, bytes(context, 'key'), bytes(context, 'iv'), {
        authTagLength: length === 0 ? BLOCK : length,
      });
      machine.setAAD(bytes(context, 'with'));
      if (length === 0) return machine.update(body);
      machine.setAuthTag(tag);
      const plain = machine.update(body);
      try {
        machine.final();
      } catch (error) {
        throw new FormatError(
          {
            code: 'codec-failed',
            what: `the tag of ${name} does not agree`,
            hint: 'The key or the IV does not fit, or the bytes are damaged.',
          },
          { cause: error },
        );
      }
      return plain;
    },
    encode: (plain, context) => {
      const { length, isFirst } = tagged(context);
      const machine = createCipheriv(name, bytes(context, 'key'), bytes(context, 'iv'), {
        authTagLength: length === 0 ? BLOCK : length,
      });
      machine.setAAD(bytes(context, 'with'));
      const body = Buffer.concat([machine.update(plain), machine.final()]);
      if (length === 0) return body;
      const tag = machine.getAuthTag();
      return Buffer.concat(isFirst ? [tag, body] : [body, tag]);
    },
  };
}

const xtsParams = (bits: number): ParamSpec[] => [
  { name: 'key', type: 'key', length: bits / 4 },
  { name: 'iv', type: 'bytes', length: BLOCK },
  { name: 'unit', type: 'number', otherwise: 0 },
];

function xts(bits: 128 | 256): Codec {
  const name = `aes-${bits}-xts`;
  /** Units of so many bytes, each under the number (little-endian) after that of the one before. */
  const run = (given: Uint8Array, context: CodecContext, decode: boolean): Uint8Array => {
    const unit = Number(context.params['unit'] ?? 0) || given.length;
    const key = bytes(context, 'key');
    const half = key.length / 2;
    if (Buffer.compare(key.subarray(0, half), key.subarray(half)) === 0)
      throw new FormatError({
        code: 'codec-failed',
        what: `the two keys of ${name} are the same, which IEEE 1619 does not allow`,
        hint: 'The key is that of the data, and then that of the units.',
      });
    const number = copyOf(bytes(context, 'iv'));
    const out = copyOf(given);
    for (let at = 0; at + BLOCK <= out.length; at += unit) {
      const part = out.subarray(at, Math.min(at + unit, out.length));
      if (part.length < BLOCK) break;
      const make = decode ? createDecipheriv : createCipheriv;
      part.set(make(name, key, number).update(part));
      for (let i = 0; i < BLOCK && (number[i] = (number[i]! + 1) & 0xff) === 0; i++);
    }
    return out;
  };
  const checked = (given: Uint8Array, context: CodecContext, decode: boolean): Uint8Array => {
    const unit = Number(context.params['unit'] ?? 0);
    if (unit === 0 || unit >= BLOCK) return run(given, context, decode);
    throw new FormatError({
      code: 'codec-failed',
      what: `a unit of ${name} is too short`,
      expected: `at least ${BLOCK} bytes`,
      found: String(unit),
    });
  };
  return {
    name,
    family: 'cipher',
    about: `AES with two ${bits}-bit keys in XTS; \`iv\` is the number of the first unit of \`unit\` bytes (0: the whole stretch), and each further one counts on. A unit shorter than a block stays.`,
    params: xtsParams(bits),
    decode: (stored, context) => checked(stored, context, true),
    encode: (plain, context) => checked(plain, context, false),
  };
}

export const authenticatedCodecs: readonly Codec[] = [gcm(128), gcm(192), gcm(256), xts(128), xts(256)];
