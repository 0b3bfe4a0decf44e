/** Ciphers and keyed hashes against openssl, the vectors of their standards, and values that other libraries gave. */
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { cityHash64 } from './city-hash';
import { findCodec, hasherKey, hashOf, prepareCodecs, type ParamValue } from './index';

beforeAll(prepareCodecs);

const hex = (bytes: Uint8Array) => Buffer.from(bytes).toString('hex');
const bytes = (text: string) => new Uint8Array(Buffer.from(text, 'hex'));
const run = (length: number) => Uint8Array.from({ length }, (_, i) => i);
const context = (params: Record<string, ParamValue>) => ({ params, maxPlainBytes: 1 << 24 });
const PLAIN = Buffer.from('The cabin leaves the valley station. '.repeat(64)).subarray(0, 2048);

function openssl(cipher: string, key: Uint8Array, iv: Uint8Array | undefined): string {
  const ivs = iv === undefined ? [] : ['-iv', hex(iv)];
  const args = ['enc', `-${cipher}`, '-provider', 'legacy', '-provider', 'default', '-nopad', '-K', hex(key), ...ivs];
  return hex(execFileSync('openssl', args, { input: PLAIN }));
}

test.each([
  ...[128, 192, 256].map((bits) => [`aes-${bits}-ofb`, `aes-${bits}-ofb`, bits / 8, 16] as const),
  ...[128, 192, 256].flatMap((bits) =>
    ['ecb', 'cbc', 'ctr', 'cfb', 'ofb'].map(
      (mode) => [`camellia-${bits}-${mode}`, `camellia-${bits}-${mode}`, bits / 8, mode === 'ecb' ? 0 : 16] as const,
    ),
  ),
  ...['ecb', 'cbc', 'cfb', 'ofb'].flatMap((mode) => {
    const iv = mode === 'ecb' ? 0 : 8;
    return [
      [`des-${mode}`, `des-${mode}`, 8, iv],
      [`triple-des-${mode}`, mode === 'ecb' ? 'des-ede3' : `des-ede3-${mode}`, 24, iv],
      [`triple-des-${mode}`, mode === 'ecb' ? 'des-ede' : `des-ede-${mode}`, 16, iv],
    ] as const;
  }),
])('%s is what openssl calls %s, with a key of %d bytes', (name, cipher, keyBytes, ivBytes) => {
  const key = Uint8Array.from({ length: keyBytes }, (_, i) => (i * 37 + 11) & 0xff);
  const iv = ivBytes === 0 ? undefined : run(ivBytes);
  const stored = findCodec(name)!.encode(PLAIN, context({ key, ...(iv === undefined ? {} : { iv }) }));
  expect(hex(stored)).toBe(openssl(cipher, key, iv));
});

test.each([
  // NIST SP 800-38D, test case 2 of its authors.
  [
    'aes-128-gcm',
    { key: new Uint8Array(16), iv: new Uint8Array(12) },
    '00'.repeat(16),
    '0388dace60b6a392f328c2b971b2fe78ab6e47d42cec13bdf53a67b21257bddf',
  ],
  // Given by pycryptodome 3.23.
  [
    'aes-128-gcm',
    { key: run(16), iv: run(12), with: Buffer.from('head'), tag: 12 },
    hex(Buffer.from('cabin cabin cabin')),
    'f00dc5a7083b943529bb0faa55c21261dd7716c9d26f225271a243502d',
  ],
  // IEEE 1619, vector 2.
  [
    'aes-128-xts',
    { key: bytes('11'.repeat(16) + '22'.repeat(16)), iv: bytes('3333333333' + '00'.repeat(11)) },
    '44'.repeat(32),
    'c454185e6a16936e39334038acef838bfb186fff7480adc4289382ecd6d394f0',
  ],
  // The known answer of Twofish for zeros.
  ['twofish-ecb', { key: new Uint8Array(16) }, '00'.repeat(16), '9f589f5cf6122c32b6bfec2f2ae8c35a'],
  // RFC 8439, section A.1, and its author's cipher, whose nonce is shorter.
  [
    'chacha20',
    { key: new Uint8Array(32), nonce: new Uint8Array(8) },
    '00'.repeat(16),
    '76b8e0ada0f13d90405d6ae55386bd28',
  ],
] as const)('%s gives the published bytes', (name, params, plain, stored) => {
  const made = findCodec(name)!.encode(bytes(plain), context(params as Record<string, ParamValue>));
  expect(hex(made)).toBe(stored);
  expect(hex(findCodec(name)!.decode(made, context(params as Record<string, ParamValue>)))).toBe(plain);
});

/** Keystreams as pycryptodome 3.23 gives them, from an odd place within a block. */
test.each([
  ['salsa20', { key: run(32), nonce: run(8) }, 100, '8cb4f9a4ed5247823e14618f06dc61cfe4b8e2ba836783b280efedca8740bfe7'],
  ['salsa20', { key: run(16), nonce: run(8) }, 0, '36ed2247b82ba6ab8c31bf24fdf5f993'],
  [
    'chacha20',
    { key: run(32), nonce: run(24) },
    100,
    '41670964d595ae59cf21536271bae2594774fb19079b933d8fe744f4b220ffb3',
  ],
  ['chacha20', { key: run(32), nonce: run(8), counter: 5 }, 60, '307c144226b7c4e8c2f97d2a1d67852d29beba11'],
] as const)('%s gives the keystream of another library', async (name, params, from, stream) => {
  const zeros = new Uint8Array(from + stream.length / 2);
  expect(hex(findCodec(name)!.encode(zeros, context(params)).subarray(from))).toBe(stream);
  // The same in pieces that end within blocks.
  async function* pieces() {
    for (let at = 0; at < zeros.length; at += 41) yield zeros.slice(at, at + 41);
  }
  const made: Uint8Array[] = [];
  for await (const piece of findCodec(name)!.encodeStream!(pieces(), context(params))) made.push(piece);
  expect(hex(Buffer.concat(made).subarray(from))).toBe(stream);
});

test('a tag that does not agree is told, and units of XTS count on', () => {
  const gcm = findCodec('aes-256-gcm')!;
  const params = { key: run(32), iv: run(12), place: 'front', tag: 8 };
  const stored = gcm.encode(PLAIN, context(params));
  expect(hex(gcm.decode(stored, context(params)))).toBe(hex(PLAIN));
  stored[stored.length - 1]! ^= 1;
  expect(() => gcm.decode(stored, context(params))).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'codec-failed' }) }),
  );
  const xts = findCodec('aes-256-xts')!;
  const key = Uint8Array.from({ length: 64 }, (_, i) => i);
  const whole = xts.encode(PLAIN, context({ key, iv: new Uint8Array(16), unit: 512 }));
  const third = xts.encode(PLAIN.subarray(1024, 1536), context({ key, iv: Uint8Array.of(2, ...new Uint8Array(15)) }));
  expect(hex(whole.subarray(1024, 1536))).toBe(hex(third));
});

const digest = (name: string, params: Record<string, ParamValue>, data: Uint8Array) => {
  const value = hashOf(hasherKey(name, params), data);
  return value instanceof Uint8Array ? hex(value) : value.toString(16);
};

/** The check values of the catalogue of parametrised CRC algorithms, over "123456789". */
test.each([
  ['CRC-5/USB', { width: 5, polynomial: 0x05, start: 0x1f, 'reflect-in': 1, xor: 0x1f }, '19'],
  ['CRC-8/SMBUS', { width: 8, polynomial: 0x07 }, 'f4'],
  ['CRC-12/UMTS', { width: 12, polynomial: 0x80f, 'reflect-out': 1 }, 'daf'],
  ['CRC-16/KERMIT', { width: 16, polynomial: 0x1021, 'reflect-in': 1 }, '2189'],
  ['CRC-24/OPENPGP', { width: 24, polynomial: 0x864cfb, start: 0xb704ce }, '21cf02'],
  ['CRC-32/BZIP2', { width: 32, polynomial: 0x04c11db7, start: 0xffffffff, xor: 0xffffffff }, 'fc891918'],
  [
    'CRC-64/GO-ISO',
    { width: 64, polynomial: 0x1b, start: 0xffffffffffffffffn, 'reflect-in': 1, xor: 0xffffffffffffffffn },
    'b90956c775a41001',
  ],
] as const)('%s', (_, params, check) => {
  expect(digest('crc', params, Buffer.from('123456789'))).toBe(check);
});

test('keyed hashes agree with their standards and other libraries', () => {
  const key = bytes('2b7e151628aed2a6abf7158809cf4f3c');
  const block = bytes('6bc1bee22e409f96e93d7e117393172aae2d8a571e03ac9c9eb76fac45af8e5130c81c46a35ce411');
  // RFC 4493, section 4.
  expect(digest('cmac-aes', { key }, new Uint8Array(0))).toBe('bb1d6929e95937287fa37d129b756746');
  expect(digest('cmac-aes', { key }, block.subarray(0, 16))).toBe('070a16b46b4d4144f79bdd9dd04a287c');
  expect(digest('cmac-aes', { key }, block)).toBe('dfa66747de9ae63030ca32611497c827');
  // The authors' paper, appendix A.
  expect(digest('siphash', { key: run(16) }, run(15))).toBe('a129ca6149be45e5');
  // Python's hashlib.
  const seven = Buffer.from('k'.repeat(7));
  expect(digest('blake2b', { key: seven, length: 20 }, Buffer.from('cabin'))).toBe(
    '16a3311206ebd02f64ea777122854afce4fee1bf',
  );
  expect(digest('blake2s', { key: seven, length: 9 }, Buffer.from('cabin'))).toBe('8bb3e26826e318e568');
  expect(digest('blake2b', {}, PLAIN)).toBe(createHash('blake2b512').update(PLAIN).digest('hex'));
  expect(digest('blake2s', {}, PLAIN)).toBe(createHash('blake2s256').update(PLAIN).digest('hex'));
  // The authors' test vectors: bytes that count up to 250, of length 1023.
  const counted = Uint8Array.from({ length: 1023 }, (_, i) => i % 251);
  expect(digest('blake3', {}, counted)).toBe('10108970eeda3eb932baac1428c7a2163b0e924c9a9e25b35bba72b28f70bd11');
});

test('XXH3 and CityHash agree with other libraries', () => {
  const data = Buffer.concat([run(256), run(256), run(256)]);
  expect(digest('xxh3', { seed: 99 }, data)).toBe('9dcda280f698b3eb');
  expect(digest('xxh3-128', { seed: 99 }, data)).toBe('21223fb241e3d6f09dcda280f698b3eb');
  // The verification value of CityHash64 with a seed; its last step has the seed 0, which is no seed here.
  const all = Buffer.alloc(256 * 8);
  for (let i = 0; i < 256; i++) all.writeBigUInt64LE(BigInt(cityHash64(run(i), BigInt(256 - i))), i * 8);
  expect(BigInt(cityHash64(all, 1n << 64n)) & 0xffffffffn).toBe(0x5fabc5c5n);
});
