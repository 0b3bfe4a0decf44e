/**
 * Block ciphers of the system's OpenSSL, through Node, in the modes of NIST SP 800-38A: AES (FIPS 197), Camellia (RFC 3713),
 * DES and triple DES (FIPS 46-3).
 */
import { createCipheriv, createDecipheriv, type Cipher, type Decipher } from 'node:crypto';
import { FormatError, hexBytes } from '../faults';
import type { Codec, CodecContext, ParamSpec } from './codec';

type Mode = 'ecb' | 'cbc' | 'ctr' | 'cfb' | 'ofb';

const MODES: Readonly<Record<Mode, string>> = {
  ecb: 'every block by itself',
  cbc: 'blocks chained',
  ctr: 'a keystream from a counter',
  cfb: 'a keystream fed back from the stored bytes',
  ofb: 'a keystream fed back from itself',
};

interface SystemCipher {
  /** The name of the step without its mode. */
  readonly name: string;
  readonly title: string;
  /** Length of the key; undefined where it is looked at when it is used. */
  readonly keyBytes: number | undefined;
  readonly block: number;
  readonly modes: readonly Mode[];
  /** The cipher of OpenSSL without its mode, and the key it wants. */
  readonly system: (key: Uint8Array) => { readonly name: string; readonly key: Uint8Array };
}

const sized = (name: string, title: string, bits: number): SystemCipher => ({
  name: `${name}-${bits}`,
  title: `${title} with a ${bits}-bit key`,
  keyBytes: bits / 8,
  block: 16,
  modes: ['ecb', 'cbc', 'ctr', 'cfb', 'ofb'],
  system: (key) => ({ name: `${name}-${bits}`, key }),
});

/** DES by itself is no longer offered by OpenSSL; three times the same key is the same. */
const tripled = (key: Uint8Array) => ({ name: 'des-ede3', key: Buffer.concat([key, key, key]) });

function tripleDesKey(key: Uint8Array): { readonly name: string; readonly key: Uint8Array } {
  if (key.length === 24) return { name: 'des-ede3', key };
  if (key.length === 16) return { name: 'des-ede3', key: Buffer.concat([key, key.subarray(0, 8)]) };
  throw new FormatError({
    code: 'codec-failed',
    what: 'triple DES takes a key of 16 or 24 bytes',
    found: `${key.length} bytes`,
  });
}

const DES_MODES = ['ecb', 'cbc', 'cfb', 'ofb'] as const;

const CIPHERS: readonly SystemCipher[] = [
  ...[128, 192, 256].map((bits) => sized('aes', 'AES', bits)),
  ...[128, 192, 256].map((bits) => sized('camellia', 'Camellia (RFC 3713)', bits)),
  { name: 'des', title: 'DES with a key of 8 bytes', keyBytes: 8, block: 8, modes: DES_MODES, system: tripled },
  {
    name: 'triple-des',
    title: 'Triple DES with a key of 16 or 24 bytes',
    keyBytes: undefined,
    block: 8,
    modes: DES_MODES,
    system: tripleDesKey,
  },
];

export const systemCipherCodecs: readonly Codec[] = CIPHERS.flatMap((cipher) =>
  cipher.modes.map((mode) => codecOf(cipher, mode)),
);

function codecOf({ name: family, title, keyBytes, block, system }: SystemCipher, mode: Mode): Codec {
  const name = `${family}-${mode}`;
  const padded = mode === 'ecb' || mode === 'cbc';
  const params: ParamSpec[] = [{ name: 'key', type: 'key', ...(keyBytes === undefined ? {} : { length: keyBytes }) }];
  if (mode !== 'ecb') params.push({ name: 'iv', type: 'bytes', length: block });
  if (padded) params.push({ name: 'pad', type: 'word', words: ['none', 'pkcs7', 'zeros'], otherwise: 'none' });
  const parts = (context: CodecContext): [string, Uint8Array, Uint8Array | null] => {
    const { name: cipherName, key } = system(context.params['key'] as Uint8Array);
    return [`${cipherName}-${mode}`, key, mode === 'ecb' ? null : (context.params['iv'] as Uint8Array)];
  };
  const decipher = (context: CodecContext) => createDecipheriv(...parts(context)).setAutoPadding(false) as Decipher;
  const cipher = (context: CodecContext) => createCipheriv(...parts(context)).setAutoPadding(false) as Cipher;
  const shape: Shape = { name, block };
  return {
    name,
    family: 'cipher',
    about: `${title}, ${MODES[mode]}.`,
    params,
    decode: (stored, context) => {
      if (padded) checkWholeBlocks(stored.length, shape);
      const machine = decipher(context);
      const plain = Buffer.concat([machine.update(stored), machine.final()]);
      return padded ? unpad(plain, shape, context) : plain;
    },
    encode: (plain, context) => {
      const machine = cipher(context);
      const first = machine.update(plain);
      return Buffer.concat([
        first,
        machine.update(padded ? padding(plain.length, shape, context) : new Uint8Array(0)),
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
        const keep = padded ? Math.min(block, plain.length) : 0;
        held = plain.subarray(plain.length - keep);
        if (plain.length > keep) yield plain.subarray(0, plain.length - keep);
      }
      if (padded) checkWholeBlocks(total, shape);
      const last = Buffer.concat([held, machine.final()]);
      const end = padded ? unpad(last, shape, { ...context, plainSize: lastPlain(context, total, block) }) : last;
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
        machine.update(padded ? padding(total, shape, context) : new Uint8Array(0)),
        machine.final(),
      ]);
    },
  };
}

/** What faults name, and what padding counts in. */
interface Shape {
  readonly name: string;
  readonly block: number;
}

/** How much of the last block is plain, when the whole plain size is known. */
function lastPlain(context: CodecContext, stored: number, block: number): number | undefined {
  return context.plainSize === undefined ? undefined : Math.max(0, context.plainSize - Math.max(0, stored - block));
}

function checkWholeBlocks(length: number, { name, block }: Shape): void {
  if (length % block === 0) return;
  throw new FormatError({
    code: 'codec-failed',
    what: `${name} works on blocks of ${block} bytes`,
    expected: `a length that ${block} divides`,
    found: length.toLocaleString('en'),
    hint: 'The stretch may be cut off, or its length be read from the wrong field.',
  });
}

function padding(length: number, { name, block }: Shape, context: CodecContext): Uint8Array {
  const over = length % block;
  switch (context.params['pad']) {
    case 'pkcs7':
      return new Uint8Array(block - over).fill(block - over);
    case 'zeros':
      return new Uint8Array(over === 0 ? 0 : block - over);
    default:
      if (over !== 0) {
        throw new FormatError({
          code: 'layout-impossible',
          what: `${name} without padding needs whole blocks of ${block} bytes`,
          found: `${length.toLocaleString('en')} bytes`,
          hint: 'State pad: pkcs7 or pad: zeros in the recipe.',
        });
      }
      return new Uint8Array(0);
  }
}

function unpad(plain: Uint8Array, { name, block }: Shape, context: CodecContext): Uint8Array {
  switch (context.params['pad']) {
    case 'pkcs7': {
      // PKCS #7: n bytes of value n, 1 to the length of a block. All of them are checked: a wrong key seldom survives this.
      const count = plain[plain.length - 1] ?? 0;
      const tail = plain.subarray(Math.max(0, plain.length - count));
      if (count >= 1 && count <= block && tail.every((byte) => byte === count))
        return plain.subarray(0, plain.length - count);
      const fault = new FormatError({
        code: 'codec-failed',
        what: `${name} does not end in its padding`,
        expected: `1 to ${block} bytes that state their own number`,
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
