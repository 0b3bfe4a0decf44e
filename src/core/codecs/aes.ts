/** AES (FIPS 197) in the modes of NIST SP 800-38A, by the system's OpenSSL through Node. */
import { createCipheriv, createDecipheriv, type Cipher, type Decipher } from 'node:crypto';
import { FormatError, hexBytes } from '../faults';
import type { Codec, CodecContext, ParamSpec } from './codec';

const BLOCK = 16;

type Mode = 'ecb' | 'cbc' | 'ctr' | 'cfb';

const MODES: readonly { mode: Mode; about: string }[] = [
  { mode: 'ecb', about: 'every block by itself' },
  { mode: 'cbc', about: 'blocks chained' },
  { mode: 'ctr', about: 'a keystream from a counter' },
  { mode: 'cfb', about: 'a keystream fed back from the stored bytes' },
];

export const aesCodecs: readonly Codec[] = [128, 192, 256].flatMap((bits) =>
  MODES.map(({ mode, about }) => aes(bits, mode, about)),
);

function aes(bits: number, mode: Mode, about: string): Codec {
  const name = `aes-${bits}-${mode}`;
  const padded = mode === 'ecb' || mode === 'cbc';
  const params: ParamSpec[] = [{ name: 'key', type: 'key', length: bits / 8 }];
  if (mode !== 'ecb') params.push({ name: 'iv', type: 'bytes', length: BLOCK });
  if (padded) params.push({ name: 'pad', type: 'word', words: ['none', 'pkcs7', 'zeros'], otherwise: 'none' });
  const parts = (context: CodecContext): [string, Uint8Array, Uint8Array | null] => [
    name,
    context.params['key'] as Uint8Array,
    mode === 'ecb' ? null : (context.params['iv'] as Uint8Array),
  ];
  const decipher = (context: CodecContext) => createDecipheriv(...parts(context)).setAutoPadding(false) as Decipher;
  const cipher = (context: CodecContext) => createCipheriv(...parts(context)).setAutoPadding(false) as Cipher;
  return {
    name,
    family: 'cipher',
    about: `AES with a ${bits}-bit key, ${about}.`,
    params,
    decode: (stored, context) => {
      if (padded) checkWholeBlocks(stored.length, name);
      const machine = decipher(context);
      const plain = Buffer.concat([machine.update(stored), machine.final()]);
      return padded ? unpad(plain, name, context) : plain;
    },
    encode: (plain, context) => {
      const machine = cipher(context);
      const first = machine.update(plain);
      return Buffer.concat([
        first,
        machine.update(padded ? padding(plain.length, name, context) : new Uint8Array(0)),
        machine.final(),
      ]);
    },
    decodeStream: async function* (stored, context) {
      const machine = decipher(context);
      // The padding can only be judged at the end, so the last block is held back.
      let held: Uint8Array = new Uint8Array(0);
      let total = 0;
      for await (const chunk of stored) {
        total += chunk.length;
        const plain = machine.update(chunk);
        if (plain.length === 0) continue;
        if (held.length > 0) yield held;
        const keep = padded ? Math.min(BLOCK, plain.length) : 0;
        held = plain.subarray(plain.length - keep);
        if (plain.length > keep) yield plain.subarray(0, plain.length - keep);
      }
      if (padded) checkWholeBlocks(total, name);
      const last = Buffer.concat([held, machine.final()]);
      const end = padded ? unpad(last, name, { ...context, plainSize: lastPlain(context, total) }) : last;
      if (end.length > 0) yield end;
    },
    encodeStream: async function* (plain, context) {
      const machine = cipher(context);
      let total = 0;
      for await (const chunk of plain) {
        total += chunk.length;
        yield machine.update(chunk);
      }
      yield Buffer.concat([
        machine.update(padded ? padding(total, name, context) : new Uint8Array(0)),
        machine.final(),
      ]);
    },
  };
}

/** How much of the last block is plain, when the whole plain size is known. */
function lastPlain(context: CodecContext, stored: number): number | undefined {
  return context.plainSize === undefined ? undefined : Math.max(0, context.plainSize - Math.max(0, stored - BLOCK));
}

function checkWholeBlocks(length: number, name: string): void {
  if (length % BLOCK === 0) return;
  throw new FormatError({
    code: 'codec-failed',
    what: `${name} works on blocks of ${BLOCK} bytes`,
    expected: `a length that ${BLOCK} divides`,
    found: length.toLocaleString('en'),
    hint: 'The stretch may be cut off, or its length be read from the wrong field.',
  });
}

function padding(length: number, name: string, context: CodecContext): Uint8Array {
  const over = length % BLOCK;
  switch (context.params['pad']) {
    case 'pkcs7':
      return new Uint8Array(BLOCK - over).fill(BLOCK - over);
    case 'zeros':
      return new Uint8Array(over === 0 ? 0 : BLOCK - over);
    default:
      if (over !== 0) {
        throw new FormatError({
          code: 'layout-impossible',
          what: `${name} without padding needs whole blocks of ${BLOCK} bytes`,
          found: `${length.toLocaleString('en')} bytes`,
          hint: 'State pad: pkcs7 or pad: zeros in the recipe.',
        });
      }
      return new Uint8Array(0);
  }
}

function unpad(plain: Uint8Array, name: string, context: CodecContext): Uint8Array {
  switch (context.params['pad']) {
    case 'pkcs7': {
      // PKCS #7: n bytes of value n, 1 to 16. All of them are checked: a wrong key seldom survives this.
      const count = plain[plain.length - 1] ?? 0;
      const tail = plain.subarray(Math.max(0, plain.length - count));
      if (count >= 1 && count <= BLOCK && tail.every((byte) => byte === count))
        return plain.subarray(0, plain.length - count);
      const fault = new FormatError({
        code: 'codec-failed',
        what: `${name} does not end in its padding`,
        expected: '1 to 16 bytes that state their own number',
        found: hexBytes(plain.subarray(-4)),
        hint: 'Most likely the key does not fit.',
      });
      fault.partial = plain;
      throw fault;
    }
    case 'zeros':
      return context.plainSize === undefined ? plain : plain.subarray(0, context.plainSize);
    default:
      return plain;
  }
}
