/** Hashes under a key, and those that may have one: HMAC (RFC 2104), CMAC (RFC 4493), SipHash, BLAKE2 and BLAKE3. */
import { createCipheriv, createHmac } from 'node:crypto';
import { blake2b } from '@noble/hashes/blake2b';
import { blake2s } from '@noble/hashes/blake2s';
import { blake3 } from '@noble/hashes/blake3';
import type { ParamSpec } from './codec';
import { short, type Digest, type HashFacts, type Hasher, type HashParams } from './hasher';
import { unfitParameter } from './own-fault';
import { gathered } from './whole-hashes';

const NOTHING = new Uint8Array(0);
const KEY: ParamSpec = { name: 'key', type: 'key' };
const MAY_KEY: ParamSpec = { name: 'key', type: 'key', otherwise: NOTHING };

const keyOf = ({ key = NOTHING }: HashParams): Uint8Array =>
  typeof key === 'string' ? new TextEncoder().encode(key) : (key as Uint8Array);

function hmac(hash: string, bytes: number): HashFacts {
  return {
    name: `hmac-${hash}`,
    about: `HMAC (RFC 2104) with ${hash.toUpperCase().replace(/^SHA/, 'SHA-')} under a \`key\`, ${bytes} bytes`,
    params: [KEY],
    create: (params) => {
      const machine = createHmac(hash, keyOf(params));
      return { update: (part) => void machine.update(part), digest: () => new Uint8Array(machine.digest()) };
    },
  };
}

const BLOCK = 16;

/** AES-CMAC (RFC 4493), section 2.4: CBC from zeros on, with the last block changed by a key of its own. */
function aesCmac(bytes: Uint8Array, key: Uint8Array): Uint8Array {
  if (![16, 24, 32].includes(key.length)) throw unfitParameter('cmac-aes', 'key', '16, 24 or 32 bytes', key.length);
  const cbc = (data: Uint8Array) =>
    createCipheriv(`aes-${key.length * 8}-cbc`, key, new Uint8Array(BLOCK))
      .setAutoPadding(false)
      .update(data);
  const doubled = (block: Uint8Array) => {
    const out = Uint8Array.from(block, (byte, i) => ((byte << 1) | ((block[i + 1] ?? 0) >> 7)) & 0xff);
    if (block[0]! >> 7) out[BLOCK - 1]! ^= 0x87;
    return out;
  };
  const whole = bytes.length > 0 && bytes.length % BLOCK === 0;
  const first = doubled(cbc(new Uint8Array(BLOCK)));
  const last = whole ? first : doubled(first);
  const padded = new Uint8Array(Math.max(1, Math.ceil(bytes.length / BLOCK)) * BLOCK);
  padded.set(bytes);
  if (!whole) padded[bytes.length] = 0x80;
  for (let i = 0; i < BLOCK; i++) padded[padded.length - BLOCK + i]! ^= last[i]!;
  return new Uint8Array(cbc(padded).subarray(-BLOCK));
}

/** SipHash (Aumasson and Bernstein, 2012) with `rounds` for each word and `end-rounds` behind the last. */
function sipHash(bytes: Uint8Array, params: HashParams): Digest {
  const key = keyOf(params);
  if (key.length !== 16) throw unfitParameter('siphash', 'key', '16 bytes', key.length);
  const u64 = (x: bigint) => BigInt.asUintN(64, x);
  const turned = (x: bigint, by: bigint) => u64((x << by) | (x >> (64n - by)));
  const keys = new DataView(key.buffer, key.byteOffset, 16);
  const [k0, k1] = [keys.getBigUint64(0, true), keys.getBigUint64(8, true)];
  let v0 = k0 ^ 0x736f6d6570736575n;
  let v1 = k1 ^ 0x646f72616e646f6dn;
  let v2 = k0 ^ 0x6c7967656e657261n;
  let v3 = k1 ^ 0x7465646279746573n;
  const rounds = (count: number) => {
    for (let i = 0; i < count; i++) {
      v0 = u64(v0 + v1);
      v1 = turned(v1, 13n) ^ v0;
      v0 = turned(v0, 32n);
      v2 = u64(v2 + v3);
      v3 = turned(v3, 16n) ^ v2;
      v0 = u64(v0 + v3);
      v3 = turned(v3, 21n) ^ v0;
      v2 = u64(v2 + v1);
      v1 = turned(v1, 17n) ^ v2;
      v2 = turned(v2, 32n);
    }
  };
  const compress = Number(params['rounds'] ?? 2);
  const padded = Buffer.alloc(Math.floor(bytes.length / 8) * 8 + 8);
  padded.set(bytes);
  padded[padded.length - 1] = bytes.length & 0xff;
  for (let at = 0; at < padded.length; at += 8) {
    const word = padded.readBigUInt64LE(at);
    v3 ^= word;
    rounds(compress);
    v0 ^= word;
  }
  v2 ^= 0xffn;
  rounds(Number(params['end-rounds'] ?? 4));
  return short(v0 ^ v1 ^ v2 ^ v3);
}

interface Blake {
  readonly name: string;
  readonly about: string;
  readonly bytes: number;
  readonly most: number;
  readonly create: (options: { dkLen: number; key?: Uint8Array }) => {
    update(bytes: Uint8Array): unknown;
    digest(): Uint8Array;
  };
}

function blake({ name, about, bytes, most, create }: Blake): HashFacts {
  return {
    name,
    about,
    params: [MAY_KEY, { name: 'length', type: 'number', otherwise: bytes }],
    create: (params): Hasher => {
      const length = Number(params['length'] ?? bytes);
      if (!Number.isInteger(length) || length < 1 || length > most)
        throw unfitParameter(name, 'length', `1 to ${most} bytes`, length);
      const key = keyOf(params);
      const machine = create({ dkLen: length, ...(key.length === 0 ? {} : { key }) });
      return { update: (part) => void machine.update(part), digest: () => machine.digest() };
    },
  };
}

export const keyedHashes: readonly HashFacts[] = [
  hmac('md5', 16),
  hmac('sha1', 20),
  hmac('sha256', 32),
  hmac('sha512', 64),
  {
    name: 'cmac-aes',
    about: 'CMAC (RFC 4493) with AES under a `key` of 16, 24 or 32 bytes, 16 bytes',
    params: [KEY],
    create: (params) => gathered((bytes) => aesCmac(bytes, keyOf(params))),
  },
  {
    name: 'siphash',
    about: 'SipHash-2-4 under a `key` of 16 bytes, 64 bits; other `rounds` and `end-rounds` for its variants',
    params: [
      KEY,
      { name: 'rounds', type: 'number', otherwise: 2 },
      { name: 'end-rounds', type: 'number', otherwise: 4 },
    ],
    create: (params) => gathered((bytes) => sipHash(bytes, params)),
  },
  blake({
    name: 'blake2b',
    about: 'BLAKE2b (RFC 7693), 64 bytes or `length`, under a `key` or none',
    bytes: 64,
    most: 64,
    create: (options) => blake2b.create(options),
  }),
  blake({
    name: 'blake2s',
    about: 'BLAKE2s (RFC 7693), 32 bytes or `length`, under a `key` or none',
    bytes: 32,
    most: 32,
    create: (options) => blake2s.create(options),
  }),
  blake({
    name: 'blake3',
    about: 'BLAKE3, 32 bytes or `length`, under a `key` of 32 bytes or none',
    bytes: 32,
    most: 1024,
    create: (options) => blake3.create(options),
  }),
];
