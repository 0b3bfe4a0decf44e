/**
 * The two ciphers of the ZIP family, so that a recipe can describe it whole: the classic one (APPNOTE 6.1) and AES in
 * the form of AE-1 and AE-2. Libraries have them only inside whole archives.
 */
import { crc32 } from '@node-rs/crc32';
import { createCipheriv, createHmac, pbkdf2Sync, randomBytes, timingSafeEqual } from 'node:crypto';
import { copyOf } from '../bytes';
import { FormatError } from '../faults';
import type { Codec, CodecContext } from './codec';

const CLASSIC_HEADER = 12;

/** Three keys that every plain byte changes (APPNOTE 6.1.5). */
class ClassicKeys {
  private a = 0x12345678;
  private b = 0x23456789;
  private c = 0x34567890;
  constructor(password: Uint8Array) {
    for (const byte of password) this.update(byte);
  }
  update(byte: number): void {
    this.a = step(this.a, byte);
    this.b = (Math.imul(this.b + (this.a & 0xff), 134775813) + 1) >>> 0;
    this.c = step(this.c, this.b >>> 24);
  }
  next(): number {
    const word = (this.c | 2) & 0xffff;
    return (Math.imul(word, word ^ 1) >>> 8) & 0xff;
  }
}

const TABLE = Uint32Array.from({ length: 256 }, (_, byte) => {
  let value = byte;
  for (let bit = 0; bit < 8; bit++) value = value & 1 ? (value >>> 1) ^ 0xedb88320 : value >>> 1;
  return value;
});

function step(crc: number, byte: number): number {
  return (TABLE[(crc ^ byte) & 0xff]! ^ (crc >>> 8)) >>> 0;
}

const secret = ({ params }: CodecContext): Uint8Array => {
  const { password } = params;
  return typeof password === 'string' ? new TextEncoder().encode(password) : (password as Uint8Array);
};

function wrongPassword(expected: string, found: string): FormatError {
  return new FormatError({ code: 'key-wrong', what: 'the password does not fit', expected, found });
}

export const zipClassic: Codec = {
  name: 'zip-classic',
  family: 'cipher',
  about: 'The classic cipher of ZIP: 12 bytes in front, the last of which checks the password against `check`.',
  params: [
    { name: 'password', type: 'key' },
    { name: 'check', type: 'number', otherwise: -1 },
  ],
  decode: (stored, context) => {
    const keys = new ClassicKeys(secret(context));
    const plain = copyOf(stored);
    for (let i = 0; i < plain.length; i++) keys.update((plain[i]! ^= keys.next()));
    const check = Number(context.params['check'] ?? -1);
    if (check >= 0 && plain[CLASSIC_HEADER - 1] !== check)
      throw wrongPassword(
        `0x${check.toString(16)} at the end of its header`,
        `0x${(plain[CLASSIC_HEADER - 1] ?? 0).toString(16)}`,
      );
    return plain.subarray(Math.min(CLASSIC_HEADER, plain.length));
  },
  encode: (plain, context) => {
    const header = randomBytes(CLASSIC_HEADER);
    const check = Number(context.params['check'] ?? -1);
    if (check >= 0) header[CLASSIC_HEADER - 1] = check;
    else header[CLASSIC_HEADER - 1] = crc32(Buffer.from(plain)) >>> 24;
    const keys = new ClassicKeys(secret(context));
    const stored = new Uint8Array(Buffer.concat([header, plain]));
    for (let i = 0; i < stored.length; i++) {
      const byte = stored[i]!;
      stored[i] = byte ^ keys.next();
      keys.update(byte);
    }
    return stored;
  },
};

const VERIFY = 2;
const MAC = 10;
const ROUNDS = 1000;
const BLOCK = 16;

/** Salt of half the key's length; key, HMAC key and two bytes that check the password by PBKDF2. */
function aesKeys(password: Uint8Array, salt: Uint8Array, keyBytes: number) {
  const made = pbkdf2Sync(password, salt, ROUNDS, keyBytes * 2 + VERIFY, 'sha1');
  return {
    key: made.subarray(0, keyBytes),
    macKey: made.subarray(keyBytes, keyBytes * 2),
    verify: made.subarray(keyBytes * 2),
  };
}

/** AES in counter mode with a little-endian counter from 1 on, which no library mode has. */
function counterMode(bytes: Uint8Array, key: Uint8Array): Uint8Array {
  const counters = Buffer.alloc(Math.ceil(bytes.length / BLOCK) * BLOCK);
  for (let at = 0, n = 1; at < counters.length; at += BLOCK, n++) counters.writeUIntLE(n, at, 6);
  const machine = createCipheriv(`aes-${key.length * 8}-ecb`, key, null).setAutoPadding(false);
  const stream = machine.update(counters);
  const out = copyOf(bytes);
  for (let i = 0; i < out.length; i++) out[i]! ^= stream[i]!;
  return out;
}

const keyBytesOf = ({ params }: CodecContext): number => {
  const strength = Number(params['strength'] ?? 3);
  if (![1, 2, 3].includes(strength))
    throw new FormatError({ code: 'codec-failed', what: 'zip-aes has a strength of 1 to 3', found: String(strength) });
  return 8 + strength * 8;
};

export const zipAes: Codec = {
  name: 'zip-aes',
  family: 'cipher',
  about:
    'AES of the ZIP family (AE-1, AE-2): a salt and two check bytes in front, ten bytes of HMAC-SHA-1 behind; strength 1 to 3.',
  params: [
    { name: 'password', type: 'key' },
    { name: 'strength', type: 'number', otherwise: 3 },
  ],
  decode: (stored, context) => {
    const keyBytes = keyBytesOf(context);
    const saltBytes = keyBytes / 2;
    if (stored.length < saltBytes + VERIFY + MAC)
      throw new FormatError({ code: 'codec-failed', what: 'the stretch is shorter than its salt and checksum' });
    const { key, macKey, verify } = aesKeys(secret(context), stored.subarray(0, saltBytes), keyBytes);
    const given = stored.subarray(saltBytes, saltBytes + VERIFY);
    if (Buffer.compare(given, verify) !== 0)
      throw wrongPassword(Buffer.from(given).toString('hex'), verify.toString('hex'));
    const body = stored.subarray(saltBytes + VERIFY, stored.length - MAC);
    const mac = createHmac('sha1', macKey).update(body).digest().subarray(0, MAC);
    if (!timingSafeEqual(mac, stored.subarray(stored.length - MAC)))
      throw new FormatError({ code: 'checksum-differs', what: 'the HMAC of a locked entry does not agree' });
    return counterMode(body, key);
  },
  encode: (plain, context) => {
    const keyBytes = keyBytesOf(context);
    const salt = randomBytes(keyBytes / 2);
    const { key, macKey, verify } = aesKeys(secret(context), salt, keyBytes);
    const body = counterMode(plain, key);
    const mac = createHmac('sha1', macKey).update(body).digest().subarray(0, MAC);
    return new Uint8Array(Buffer.concat([salt, verify, body, mac]));
  },
};
