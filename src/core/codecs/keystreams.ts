/** Ciphers that XOR a keystream: ChaCha20, Salsa20 and RC4. */
import { createCipheriv } from 'node:crypto';
import { xchacha20 } from '@noble/ciphers/chacha';
import { salsa20 as nobleSalsa20, xsalsa20 } from '@noble/ciphers/salsa';
import { FormatError } from '../faults';
import type { Codec } from './codec';
import { bytesOf, count, number, scramble, type Machine, type Params, type Scramble } from './scramble';

/** Bytes of keystream that one value of the counter makes. */
const BLOCK = 64;

type XorStream = (
  key: Uint8Array,
  nonce: Uint8Array,
  data: Uint8Array,
  output: undefined,
  counter: number,
) => Uint8Array;

/** A library's cipher, which is given whole stretches, as a machine that remembers where it is. */
function counted(cipher: XorStream, key: Uint8Array, nonce: Uint8Array, counter: number): Machine {
  let at = 0;
  return (bytes) => {
    const skip = at % BLOCK;
    const padded = new Uint8Array(skip + bytes.length);
    padded.set(bytes, skip);
    bytes.set(cipher(key, nonce, padded, undefined, counter + Math.floor(at / BLOCK)).subarray(skip));
    at += bytes.length;
  };
}

function nonceOf(params: Params, cipher: string, lengths: readonly number[]): Uint8Array {
  const nonce = bytesOf(params, 'nonce');
  if (lengths.includes(nonce.length)) return nonce;
  throw new FormatError({
    code: 'codec-failed',
    what: `the nonce of ${cipher} has another length`,
    expected: `${lengths.join(', ')} bytes`,
    found: `${nonce.length}`,
  });
}

const chacha20: Scramble = {
  name: 'chacha20',
  about:
    'ChaCha20 with a nonce of 12 bytes (RFC 8439), of 8 bytes (its author’s, with a counter of 64 bits) or of 24 (XChaCha20), from block `counter` on.',
  params: [{ name: 'key', type: 'key', length: 32 }, { name: 'nonce', type: 'bytes' }, count('counter', 0)],
  decoder: (params) => {
    const key = params['key'] as Uint8Array;
    const nonce = nonceOf(params, 'ChaCha20', [12, 8, 24]);
    if (nonce.length === 24) return counted(xchacha20, key, nonce, number(params, 'counter'));
    // OpenSSL takes the counter and the nonce as one.
    const iv = Buffer.alloc(16);
    if (nonce.length === 12) iv.writeUInt32LE(number(params, 'counter'));
    else iv.writeBigUInt64LE(BigInt(number(params, 'counter')));
    iv.set(nonce, 16 - nonce.length);
    const machine = createCipheriv('chacha20', key, iv);
    return (bytes) => bytes.set(machine.update(bytes));
  },
};

const salsa20: Scramble = {
  name: 'salsa20',
  about: 'Salsa20 with a key of 16 or 32 bytes and a nonce of 8 bytes, or of 24 (XSalsa20), from block `counter` on.',
  params: [{ name: 'key', type: 'key' }, { name: 'nonce', type: 'bytes' }, count('counter', 0)],
  decoder: (params) => {
    const key = bytesOf(params, 'key');
    const nonce = nonceOf(params, 'Salsa20', [8, 24]);
    if (key.length !== 32 && (key.length !== 16 || nonce.length !== 8))
      throw new FormatError({
        code: 'codec-failed',
        what: 'the key of Salsa20 has another length',
        expected: nonce.length === 8 ? '16 or 32 bytes' : '32 bytes',
        found: `${key.length}`,
      });
    return counted(nonce.length === 8 ? nobleSalsa20 : xsalsa20, key, nonce, number(params, 'counter'));
  },
};

/** RC4 as it is commonly described; `skip` throws away the first bytes of the keystream. */
const rc4: Scramble = {
  name: 'rc4',
  about: 'RC4; `skip` throws away the first bytes of its keystream.',
  params: [{ name: 'key', type: 'key' }, count('skip', 0)],
  decoder: (params) => {
    const key = bytesOf(params, 'key');
    const state = Uint8Array.from({ length: 256 }, (_, i) => i);
    for (let i = 0, j = 0; i < 256; i++) {
      j = (j + state[i]! + key[i % key.length]!) & 0xff;
      [state[i], state[j]] = [state[j]!, state[i]!];
    }
    let i = 0;
    let j = 0;
    const next = () => {
      i = (i + 1) & 0xff;
      j = (j + state[i]!) & 0xff;
      [state[i], state[j]] = [state[j]!, state[i]!];
      return state[(state[i]! + state[j]!) & 0xff]!;
    };
    for (let skip = number(params, 'skip'); skip > 0; skip--) next();
    return (bytes) => {
      for (let k = 0; k < bytes.length; k++) bytes[k]! ^= next();
    };
  },
};

export const keystreamCodecs: readonly Codec[] = [chacha20, salsa20, rc4].map(scramble);
