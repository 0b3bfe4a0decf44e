/** The whole catalogue: exact inverses, vectors of the standards, and independent tools. */
import { execFileSync } from 'node:child_process';
import fc from 'fast-check';
import {
  codecNames,
  createHasher,
  findCodec,
  findHash,
  hasherKey,
  hasherNames,
  hashOf,
  prepareCodecs,
  type ParamValue,
} from './index';

beforeAll(prepareCodecs);

const KEY = Uint8Array.from({ length: 64 }, (_, i) => i * 5 + 1);
const sample = Buffer.from('The cabin leaves the valley station. '.repeat(120));

/** Parameters that a codec will take. */
function someParams(name: string): Record<string, ParamValue> {
  return Object.fromEntries(
    findCodec(name)!.params.map((spec): [string, ParamValue] => {
      if (spec.type === 'key') return [spec.name, KEY.subarray(0, spec.length ?? 16)];
      if (spec.type === 'bytes') return [spec.name, spec.otherwise ?? KEY.subarray(0, spec.length ?? 8)];
      if (spec.name === 'widths') return [spec.name, 8];
      if (spec.type === 'word') return [spec.name, spec.otherwise ?? spec.words![0]!];
      return [spec.name, spec.otherwise ?? 7];
    }),
  );
}

const context = (params: Record<string, ParamValue>, plainSize?: number) => ({
  params,
  maxPlainBytes: 1 << 24,
  ...(plainSize === undefined ? {} : { plainSize }),
});
const hex = (bytes: Uint8Array) => Buffer.from(bytes).toString('hex');
const bytes = (text: string) => new Uint8Array(Buffer.from(text.replace(/\s/g, ''), 'hex'));

test.each(codecNames())('%s gives back every stretch it takes', (name) => {
  const codec = findCodec(name)!;
  const params = someParams(name);
  const blocks = /^(aes|camellia).*(ecb|cbc)$/.test(name) ? 16 : /des-(ecb|cbc)$/.test(name) ? 8 : 1;
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 700 }), fc.nat(255), (random, value) => {
      const whole = Buffer.concat([random, Buffer.alloc(random.length % 90, value)]);
      const front = name === 'in-front' ? (params['bytes'] as Uint8Array) : [];
      const plain = Uint8Array.from([...front, ...whole.subarray(0, whole.length - (whole.length % blocks))]);
      const before = hex(plain);
      const stored = codec.encode(plain, context(params));
      expect(hex(codec.decode(stored, context(params, plain.length)))).toBe(before);
      // Neither direction may change what it was given.
      expect(hex(plain)).toBe(before);
    }),
    { numRuns: 40 },
  );
});

test.each(codecNames().filter((name) => findCodec(name)!.decodeStream !== undefined))(
  '%s in pieces gives the same as whole',
  async (name) => {
    const codec = findCodec(name)!;
    const params = {
      ...someParams(name),
      ...(/^(aes|camellia|des|triple-des).*(ecb|cbc)$/.test(name) ? { pad: 'pkcs7' } : {}),
    };
    const stored = codec.encode(sample, context(params));
    async function* pieces() {
      for (let at = 0; at < stored.length; at += 613) yield stored.subarray(at, at + 613);
    }
    const out: Uint8Array[] = [];
    for await (const piece of codec.decodeStream!(pieces(), context(params))) out.push(Buffer.from(piece));
    expect(hex(Buffer.concat(out))).toBe(hex(sample));
  },
);

/** Damaged stretches end in a fault, whatever the library below does. */
test.each(codecNames().filter((name) => findCodec(name)!.family === 'compression'))(
  '%s refuses noise without harm',
  (name) => {
    const codec = findCodec(name)!;
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), (noise) => {
        try {
          codec.decode(noise, { params: someParams(name), maxPlainBytes: 1 << 20, plainSize: 5000 });
        } catch (error) {
          expect((error as { fault?: { code: string } }).fault?.code).toMatch(
            /codec-failed|size-differs|limit-reached/,
          );
        }
      }),
      { numRuns: 60 },
    );
  },
);

test.each([
  ['a literal of 4 GB', [5, 0xfc, 0xff, 0xff, 0xff, 0xff, 1, 2, 3]],
  ['a literal that is too long by the sign of its length', [5, 0xfc, 0xf8, 0xff, 0xff, 0xff, 1, 2, 3]],
  ['a copy from before the start', [8, 0x00, 0x41, 0x05, 0x09]],
  ['more than it claims', [1, 0x04, 0x41, 0x42]],
  ['less than it claims', [9, 0x04, 0x41, 0x42]],
  ['a tag without its offset', [8, 0x00, 0x41, 0x02]],
])('snappy with %s ends at once', (_, bytes) => {
  const order = { params: {}, maxPlainBytes: 1 << 20 };
  expect(() => findCodec('snappy')!.decode(Uint8Array.from(bytes), order)).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'codec-failed' }) }),
  );
});

const tool = (program: string, args: readonly string[], input: Uint8Array) =>
  execFileSync(program, args, { input, maxBuffer: 1 << 26, stdio: ['pipe', 'pipe', 'ignore'] });

test.each([
  ['zstd', 'zstd', ['-q', '-c'], ['-q', '-d', '-c']],
  ['lz4-frame', 'lz4', ['-q', '-c'], ['-q', '-d', '-c']],
  ['xz', 'xz', ['-c'], ['-d', '-c']],
  ['lzma-alone', 'xz', ['--format=lzma', '-c'], ['--format=lzma', '-d', '-c']],
  ['brotli', 'brotli', ['-c'], ['-d', '-c']],
  ['gzip', 'gzip', ['-c'], ['-d', '-c']],
] as const)('%s agrees with the %s tool, both ways', (name, program, pack, unpack) => {
  const codec = findCodec(name)!;
  const theirs = tool(program, pack, sample);
  expect(hex(codec.decode(theirs, context(someParams(name), sample.length)))).toBe(hex(sample));
  expect(hex(tool(program, unpack, codec.encode(sample, context(someParams(name)))))).toBe(hex(sample));
});

test('lzo1x reads what the lzop tool packs', () => {
  for (const plain of [
    sample,
    Buffer.from(Uint8Array.from({ length: 9000 }, (_, i) => (i * i) >> 4)),
    Buffer.alloc(70_000, 'ab'),
  ]) {
    const file = tool('lzop', ['-c', '-1'], plain);
    // The header ends with its name's length, the name and a checksum; then block sizes stand big-endian.
    const nameAt = 9 + 2 + 2 + 2 + 1 + 1 + 4 + 4 + 4 + 4;
    let at = nameAt + 1 + file[nameAt]! + 4;
    const flags = file.readUInt32BE(17);
    const out: Uint8Array[] = [];
    for (let size = file.readUInt32BE(at); size > 0; size = file.readUInt32BE(at)) {
      const kept = file.readUInt32BE(at + 4);
      at += 8 + (flags & 1 ? 4 : 0) + (kept < size && flags & 2 ? 4 : 0);
      const stored = file.subarray(at, at + kept);
      out.push(kept === size ? stored : findCodec('lzo1x')!.decode(stored, context({}, size)));
      at += kept;
    }
    expect(hex(Buffer.concat(out))).toBe(hex(plain));
  }
});

const openssl = (cipher: string, key: Uint8Array, iv: Uint8Array | undefined, input: Uint8Array) =>
  tool(
    'openssl',
    [
      'enc',
      `-${cipher}`,
      '-provider',
      'legacy',
      '-provider',
      'default',
      '-nopad',
      '-K',
      hex(key),
      ...(iv === undefined ? [] : ['-iv', hex(iv)]),
    ],
    input,
  );

test('Blowfish and RC4 agree with openssl', () => {
  const plain = sample.subarray(0, 800);
  const key = KEY.subarray(0, 16);
  const iv = KEY.subarray(20, 28);
  expect(hex(findCodec('blowfish-ecb')!.encode(plain, context({ key, order: 'big' })))).toBe(
    hex(openssl('bf-ecb', key, undefined, plain)),
  );
  expect(hex(findCodec('blowfish-cbc')!.encode(plain, context({ key, iv, order: 'big' })))).toBe(
    hex(openssl('bf-cbc', key, iv, plain)),
  );
  expect(hex(findCodec('rc4')!.encode(plain, context({ key, skip: 0 })))).toBe(
    hex(openssl('rc4', key, undefined, plain)),
  );
});

test('ChaCha20 gives the keystream of RFC 8439, section 2.4.2', () => {
  const key = Uint8Array.from({ length: 32 }, (_, i) => i);
  const nonce = bytes('000000000000004a00000000');
  const text = Buffer.from(
    "Ladies and Gentlemen of the class of '99: If I could offer you only one tip for the future, sunscreen would be it.",
  );
  const stored = findCodec('chacha20')!.encode(text, context({ key, nonce, counter: 1 }));
  expect(hex(stored).slice(0, 64)).toBe('6e2e359a2568f98041ba0728dd0d6981e97e7aec1d4360c20a27afccfd9fae0b');
});

test.each([
  ['tea-ecb', '00000000000000000000000000000000', '0000000000000000', '41ea3a0a94baa940'],
  ['xtea-ecb', '000102030405060708090a0b0c0d0e0f', '4142434445464748', '497df3d072612cb5'],
  ['xtea-ecb', '00000000000000000000000000000000', '4142434445464748', 'a0390589f8b8efa5'],
] as const)('%s gives the published block (key %s)', (name, key, plain, stored) => {
  expect(hex(findCodec(name)!.encode(bytes(plain), context({ key: bytes(key), rounds: 32, order: 'big' })))).toBe(
    stored,
  );
});

test('XXTEA gives the published block', () => {
  expect(
    hex(findCodec('xxtea')!.encode(new Uint8Array(8), context({ key: new Uint8Array(16), order: 'little' }))),
  ).toBe('ab043705808c5d57');
});

test('PackBits reads the example of its description', () => {
  const stored = bytes('FE AA 02 80 00 2A FD AA 03 80 00 2A 22 F7 AA');
  const plain = bytes('AA AA AA 80 00 2A AA AA AA AA 80 00 2A 22 AA AA AA AA AA AA AA AA AA AA');
  expect(hex(findCodec('rle-packbits')!.decode(stored, context({})))).toBe(hex(plain));
});

test('the linear congruential keystream is that of the C standard’s example', () => {
  // ISO C, 7.22.2: next = next * 1103515245 + 12345, seed 1; rand() begins 16838, 5758, 10113 from bits 16 to 30.
  const stream = findCodec('lcg-xor')!.encode(
    new Uint8Array(6),
    context({ seed: 1, multiply: 1103515245, add: 12345, bits: 32, shift: 16, width: 2 }),
  );
  const words = [0, 2, 4].map((at) => Buffer.from(stream).readUInt16LE(at) & 0x7fff);
  expect(words).toEqual([16838, 5758, 10113]);
});

/** The verification values that SMHasher publishes: keys of 0 to 255 bytes, hashed, and the hashes hashed again. */
test.each([
  ['murmur2', 4, 0x27864c1e],
  ['murmur2-64', 8, 0x1f0d3804],
  ['murmur3', 4, 0xb0f57ee3],
  ['lookup3', 4, 0x3d83917a],
  ['xxhash32', 4, 0xba88b743],
  ['xxhash64', 8, 0x024b7cf4],
] as const)('%s gives the verification value of its test suite', (name, width, verification) => {
  const all = Buffer.alloc(256 * width);
  const write = (value: number | bigint, at: number) =>
    width === 8 ? all.writeBigUInt64LE(BigInt(value), at) : all.writeUInt32LE(Number(value), at);
  for (let i = 0; i < 256; i++)
    write(
      hashOf(
        `${name}@seed=${256 - i}`,
        Uint8Array.from({ length: i }, (_, k) => k),
      ) as number | bigint,
      i * width,
    );
  const last = BigInt(hashOf(name, all) as number | bigint);
  expect(Number(last & 0xffffffffn)).toBe(verification);
});

test.each([
  ['fnv1a-32', 'foobar', 0xbf9cf968],
  ['fnv1-32', 'foobar', 0x31f0b262],
  ['fnv1a-64', 'foobar', 0x85944171f73967e8n],
  ['fnv1-64', 'foobar', 0x340d8765a4dda9c2n],
  ['jenkins', 'The quick brown fox jumps over the lazy dog', 0x519e91f5],
  ['djb2', 'hello', 261238937],
  ['times31', 'hello', 99162322],
] as const)('%s of "%s" is as published', (name, text, value) => {
  expect(BigInt(hashOf(name, Buffer.from(text)) as number)).toBe(BigInt(value));
});

/** A hash with parameters that it will take. */
const someHash = (name: string) =>
  hasherKey(
    name,
    Object.fromEntries(
      findHash(name)!
        .params.filter(({ otherwise }) => otherwise === undefined)
        .map((spec): [string, ParamValue] => [spec.name, spec.type === 'key' ? KEY.subarray(0, 16) : 17]),
    ),
  );

test.each(hasherNames().map(someHash))('%s gives the same in one piece and in several', (name) => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 200 }), fc.nat(200), (data, cut) => {
      const machine = createHasher(name);
      machine.update(data.subarray(0, cut));
      machine.update(data.subarray(cut));
      expect(machine.digest()).toEqual(hashOf(name, data));
    }),
    { numRuns: 30 },
  );
});
