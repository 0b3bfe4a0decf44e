/** Codecs against independent programs: openssl, python3's zlib, the lz4 tool. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { collect } from '../bytes';
import { findCodec, hashOf, prepareCodecs, type CodecContext, type ParamValue } from './index';

const folder = mkdtempSync(join(tmpdir(), 'zero-latch-codecs-'));
beforeAll(prepareCodecs);
afterAll(() => rmSync(folder, { recursive: true }));

const context = (params: Record<string, ParamValue> = {}, plainSize?: number): CodecContext => ({
  params,
  maxPlainBytes: 1 << 24,
  ...(plainSize === undefined ? {} : { plainSize }),
});
const SAMPLE = Buffer.concat([
  Buffer.from('a valley, a rope, a cabin; '.repeat(90)),
  Buffer.from(Uint8Array.from({ length: 999 }, (_, i) => (i * i) % 256)),
]);

const python = (script: string, input: Uint8Array) =>
  execFileSync('python3', ['-c', script], { input, maxBuffer: 1 << 26 });

describe.each([
  ['zlib', 15],
  ['deflate', -15],
  ['gzip', 31],
])('%s', (name, bits) => {
  const codec = findCodec(name)!;
  test('unpacks what python3 packs', () => {
    const packed = python(
      `import sys,zlib; c=zlib.compressobj(9,zlib.DEFLATED,${bits}); d=sys.stdin.buffer.read(); sys.stdout.buffer.write(c.compress(d)+c.flush())`,
      SAMPLE,
    );
    expect(Buffer.compare(Buffer.from(codec.decode(packed, context({}, SAMPLE.length))), SAMPLE)).toBe(0);
  });
  test('python3 unpacks what it packs', () => {
    const packed = codec.encode(SAMPLE, context());
    const plain = python(
      `import sys,zlib; sys.stdout.buffer.write(zlib.decompress(sys.stdin.buffer.read(),${bits}))`,
      packed,
    );
    expect(Buffer.compare(plain, SAMPLE)).toBe(0);
  });
  test('a promise of fewer or more bytes is broken loudly', () => {
    const packed = codec.encode(SAMPLE, context());
    for (const promised of [SAMPLE.length - 1, SAMPLE.length + 1]) {
      expect(() => codec.decode(packed, context({}, promised))).toThrow(
        expect.objectContaining({ fault: expect.objectContaining({ code: 'size-differs' }) }),
      );
    }
  });
  test('a bomb ends at the limit', async () => {
    const bomb = codec.encode(new Uint8Array(1 << 25), context());
    const limited = { params: {}, maxPlainBytes: 1 << 20 };
    expect(() => codec.decode(bomb, limited)).toThrow(
      expect.objectContaining({ fault: expect.objectContaining({ code: 'limit-reached' }) }),
    );
    await expect(
      collect(
        codec.decodeStream!(
          (async function* () {
            yield bomb;
          })(),
          limited,
        ),
      ),
    ).rejects.toMatchObject({ fault: { code: 'limit-reached' } });
  });
});

describe('lz4-block', () => {
  const codec = findCodec('lz4-block')!;
  test('reads the blocks of a frame that the lz4 tool wrote', () => {
    writeFileSync(join(folder, 'plain'), SAMPLE);
    execFileSync('lz4', ['-f', '-q', '-9', '--no-frame-crc', join(folder, 'plain'), join(folder, 'frame')]);
    const frame = readFileSync(join(folder, 'frame'));
    // Frame header: magic, FLG, BD, HC; then each block with its size in front.
    const size = frame.readUInt32LE(7);
    const plain = codec.decode(frame.subarray(11, 11 + size), context({}, SAMPLE.length));
    expect(Buffer.compare(Buffer.from(plain), SAMPLE)).toBe(0);
  });
  test('the lz4 tool reads its blocks', () => {
    const block = codec.encode(SAMPLE, context());
    const head = Buffer.from([0x04, 0x22, 0x4d, 0x18, 0x60, 0x40, 0x82]);
    const size = Buffer.alloc(4);
    size.writeUInt32LE(block.length);
    const plain = execFileSync('lz4', ['-d', '-c', '-q'], {
      input: Buffer.concat([head, size, block, Buffer.alloc(4)]),
    });
    expect(Buffer.compare(plain, SAMPLE)).toBe(0);
  });
  test('a size no block can reach is refused before any memory is taken', () => {
    expect(() => codec.decode(Uint8Array.of(0x10, 0x41), context({}, 1 << 23))).toThrow(
      expect.objectContaining({ fault: expect.objectContaining({ code: 'size-differs' }) }),
    );
  });
});

describe.each(
  [128, 192, 256].flatMap((bits) =>
    ['ecb', 'cbc', 'ctr', 'cfb'].map((mode) => [`aes-${bits}-${mode}`, bits, mode] as const),
  ),
)('%s', (name, bits, mode) => {
  const codec = findCodec(name)!;
  const key = Buffer.alloc(bits / 8, 0x5a);
  const iv = Buffer.from('000102030405060708090a0b0c0d0e0f', 'hex');
  const padded = mode === 'ecb' || mode === 'cbc';
  const params: Record<string, ParamValue> = {
    key,
    ...(mode === 'ecb' ? {} : { iv }),
    ...(padded ? { pad: 'pkcs7' } : {}),
  };
  const openssl = (flags: string[], input: Uint8Array) =>
    execFileSync(
      'openssl',
      ['enc', `-${name}`, '-K', key.toString('hex'), ...(mode === 'ecb' ? [] : ['-iv', iv.toString('hex')]), ...flags],
      { input },
    );
  test('locks as openssl does, and unlocks what openssl locked', () => {
    const locked = openssl([], SAMPLE);
    expect(Buffer.compare(Buffer.from(codec.encode(SAMPLE, context(params))), locked)).toBe(0);
    expect(Buffer.compare(Buffer.from(codec.decode(locked, context(params))), SAMPLE)).toBe(0);
  });
  test('gives the same piece by piece', async () => {
    const pieces = async function* (bytes: Uint8Array) {
      for (let at = 0; at < bytes.length; at += 100) yield bytes.subarray(at, at + 100);
    };
    const locked = await collect(codec.encodeStream!(pieces(SAMPLE), context(params)));
    expect(Buffer.compare(Buffer.from(locked), openssl([], SAMPLE))).toBe(0);
    expect(
      Buffer.compare(Buffer.from(await collect(codec.decodeStream!(pieces(locked), context(params)))), SAMPLE),
    ).toBe(0);
  });
});

test('every codec gives back what it was given', () => {
  const key = Buffer.alloc(32, 1);
  const iv = Buffer.alloc(16, 2);
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 4000 }), (plain) => {
      for (const name of ['zlib', 'deflate', 'gzip', 'lz4-block', 'aes-256-ctr', 'aes-256-cbc']) {
        const codec = findCodec(name)!;
        const params: Record<string, ParamValue> = name === 'aes-256-cbc' ? { key, iv, pad: 'pkcs7' } : { key, iv };
        const size = name === 'aes-256-cbc' ? undefined : plain.length;
        expect(Buffer.compare(codec.decode(codec.encode(plain, context(params)), context(params, size)), plain)).toBe(
          0,
        );
      }
    }),
    { numRuns: 60 },
  );
});

test('checksums have the values of their standards', () => {
  const check = Buffer.from('123456789');
  expect(hashOf('crc32', check)).toBe(0xcbf43926);
  expect(hashOf('crc32c', check)).toBe(0xe3069283);
  expect(hashOf('crc32', SAMPLE)).toBe(
    Number(python('import sys,zlib; print(zlib.crc32(sys.stdin.buffer.read()))', SAMPLE).toString()),
  );
  for (const name of ['md5', 'sha1', 'sha256']) {
    const openssl = execFileSync('openssl', ['dgst', `-${name}`, '-binary'], { input: SAMPLE });
    expect(Buffer.from(hashOf(name, SAMPLE) as Uint8Array).toString('hex')).toBe(openssl.toString('hex'));
  }
});

describe('a dictionary', () => {
  const dictionary = Buffer.from('the cabin leaves the valley station at noon and comes back by night; '.repeat(8));
  const plain = Buffer.from('the valley station at night');
  test('of zlib and bare DEFLATE is what python3 takes', () => {
    for (const [name, bits] of [
      ['zlib', 15],
      ['deflate', -15],
    ] as const) {
      const dict = `bytes.fromhex('${dictionary.toString('hex')}')`;
      const packed = python(
        `import sys,zlib; c=zlib.compressobj(9,zlib.DEFLATED,${bits},9,0,${dict}); sys.stdout.buffer.write(c.compress(sys.stdin.buffer.read())+c.flush())`,
        plain,
      );
      expect(packed.length).toBeLessThan(plain.length);
      expect(Buffer.from(findCodec(name)!.decode(packed, context({ dictionary }, plain.length)))).toEqual(plain);
      const ours = findCodec(name)!.encode(plain, context({ dictionary }));
      const read = python(
        `import sys,zlib; d=zlib.decompressobj(${bits},${dict}); sys.stdout.buffer.write(d.decompress(sys.stdin.buffer.read())+d.flush())`,
        ours,
      );
      expect(read).toEqual(plain);
      expect(() => findCodec(name)!.decode(packed, context({}, plain.length))).toThrow(
        expect.objectContaining({ fault: expect.objectContaining({ code: 'codec-failed' }) }),
      );
    }
  });
  test('of Zstandard is what the tool takes', () => {
    const dict = join(folder, 'dict');
    writeFileSync(dict, dictionary);
    const run = (args: string[], input: Uint8Array) =>
      execFileSync('zstd', ['-q', '-c', '-D', dict, ...args], { input });
    const codec = findCodec('zstd')!;
    const packed = run(['-19'], plain);
    expect(Buffer.from(codec.decode(packed, context({ dictionary }, plain.length)))).toEqual(plain);
    expect(run(['-d'], codec.encode(plain, context({ dictionary })))).toEqual(plain);
    expect(codec.encode(plain, context({ dictionary })).length).toBeLessThan(codec.encode(plain, context()).length);
  });
});

test('numbers of so many bits are what python3 packs, from either end of each byte', () => {
  const widths = [5, 11, 7, 40];
  const rows = Array.from({ length: 37 }, (_, i) => widths.map((bits) => BigInt(i + 3) ** 9n % (1n << BigInt(bits))));
  const plain = Buffer.concat(
    rows.map((row) => {
      const bytes = Buffer.alloc(12);
      bytes.writeUInt8(Number(row[0]), 0);
      bytes.writeUInt16LE(Number(row[1]), 1);
      bytes.writeUInt8(Number(row[2]), 3);
      bytes.writeBigUInt64LE(row[3]!, 4);
      return bytes;
    }),
  );
  const text = JSON.stringify(rows.map((row) => row.map(String)));
  for (const bits of ['low', 'high']) {
    const stored = python(
      `import sys,json
n=0;at=0;low=${bits === 'low' ? 'True' : 'False'};w=[5,11,7,40]
for row in json.load(sys.stdin):
    for v,b in zip(row,w):
        n = n | int(v) << at if low else n << b | int(v); at += b
pad = -at % 8
sys.stdout.buffer.write((n if low else n << pad).to_bytes((at + pad) // 8, 'little' if low else 'big'))`,
      Buffer.from(text),
    );
    const params = { widths: Uint8Array.from(widths), bits };
    const codec = findCodec('unpack-bits')!;
    expect(Buffer.from(codec.decode(stored, context(params))).equals(plain)).toBe(true);
    expect(Buffer.from(codec.encode(plain, context(params))).equals(stored)).toBe(true);
  }
});
