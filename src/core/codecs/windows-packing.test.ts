/** LZX and Xpress with Huffman codes against an independent writer of Windows images, and the published examples. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { findCodec, prepareCodecs, type ParamValue } from './index';

const folder = mkdtempSync(join(tmpdir(), 'zero-latch-wim-'));
beforeAll(prepareCodecs);
afterAll(() => rmSync(folder, { recursive: true }));

const context = (params: Record<string, ParamValue> = {}, plainSize?: number) => ({
  params,
  maxPlainBytes: 1 << 24,
  ...(plainSize === undefined ? {} : { plainSize }),
});

let seed = 11;
const random = (below: number) => (seed = (Math.imul(seed, 1103515245) + 12345) >>> 0) % below;
const CHUNK = 32_768;
/** Texts, runs, copies from far away, noise among them, and calls of programs. */
const SAMPLES: Readonly<Record<string, Buffer>> = {
  text: Buffer.from('The cabin leaves the valley station at eight, and again at nine. '.repeat(900)),
  runs: Buffer.alloc(90_000, 'abcabd'),
  mixed: Buffer.from(Uint8Array.from({ length: 100_001 }, (_, i) => (random(7) === 0 ? random(256) : (i >> 5) & 0x3f))),
  program: Buffer.from(
    Uint8Array.from({ length: 70_000 }, (_, i) =>
      i % 9 === 0 ? 0xe8 : i % 9 === 1 ? random(256) : i % 9 < 4 ? 0 : i % 7,
    ),
  ),
  small: Buffer.from('gondola gondola gondola'),
};

/** The packed chunks of a file, taken out of an image that holds nothing else: a table of offsets, then the chunks. */
function packedChunks(name: string, method: 'LZX' | 'XPRESS'): { plain: Buffer; packed: Buffer }[] {
  const plain = SAMPLES[name]!;
  const source = join(folder, `${name}-${method}`);
  execFileSync('mkdir', ['-p', source]);
  writeFileSync(join(source, 'file.bin'), plain);
  const image = join(folder, `${name}-${method}.wim`);
  execFileSync('wimlib-imagex', ['capture', source, image, `--compress=${method}`, `--chunk-size=${CHUNK}`], {
    stdio: 'ignore',
  });
  const wim = readFileSync(image);
  const table = { size: wim.readUIntLE(48, 6), at: Number(wim.readBigUInt64LE(56)) };
  const count = Math.ceil(plain.length / CHUNK);
  for (let row = table.at; row < table.at + table.size; row += 50) {
    const size = wim.readUIntLE(row, 6);
    const flags = wim[row + 7]!;
    const at = Number(wim.readBigUInt64LE(row + 8));
    if (Number(wim.readBigUInt64LE(row + 16)) !== plain.length || (flags & 4) === 0) continue;
    const from = at + (count - 1) * 4;
    const starts = [0, ...Array.from({ length: count - 1 }, (_, i) => wim.readUInt32LE(at + i * 4)), at + size - from];
    return Array.from({ length: count }, (_, i) => ({
      plain: plain.subarray(i * CHUNK, (i + 1) * CHUNK),
      packed: wim.subarray(from + starts[i]!, from + starts[i + 1]!),
    })).filter((chunk) => chunk.packed.length < chunk.plain.length);
  }
  throw new Error('the file is not in the image');
}

describe.each(['text', 'runs', 'mixed', 'program'])('%s, packed by another program', (name) => {
  test.each([
    ['XPRESS', 'xpress-huffman', {}],
    ['LZX', 'lzx', { window: 15, form: 'image', reset: 0 }],
  ] as const)('as %s', (method, codec, params) => {
    const chunks = packedChunks(name, method);
    expect(chunks.length).toBeGreaterThan(0);
    for (const { plain, packed } of chunks)
      expect(Buffer.compare(findCodec(codec)!.decode(packed, context(params, plain.length)), plain)).toBe(0);
  });
});

describe('Xpress with Huffman codes', () => {
  const codec = () => findCodec('xpress-huffman')!;
  const table = (lengths: Readonly<Record<number, number>>) => {
    const bytes = Buffer.alloc(256);
    for (const [symbol, length] of Object.entries(lengths))
      bytes[Number(symbol) >> 1]! |= length << (4 * (Number(symbol) & 1));
    return bytes;
  };
  /** [MS-XCA], section 3.2. */
  test('reads the published examples', () => {
    const alphabet = Buffer.from('abcdefghijklmnopqrstuvwxyz');
    const lengths = Object.fromEntries([...alphabet].map((symbol) => [symbol, symbol < 0x77 ? 5 : 4]));
    const letters = Buffer.concat([
      table({ ...lengths, 256: 4 }),
      Buffer.from('d8523ed794115be9195ff9d67cdf8d0400000000', 'hex'),
    ]);
    expect(codec().decode(letters, context())).toEqual(new Uint8Array(alphabet));
    const again = Buffer.concat([table({ 97: 3, 98: 3, 99: 2, 256: 2, 287: 2 }), Buffer.from('a8dc0000ff2601', 'hex')]);
    expect(Buffer.from(codec().decode(again, context({}, 300))).toString()).toBe('abc'.repeat(100));
  });
  test.each(Object.entries(SAMPLES))('%s comes back', (_, plain) => {
    const packed = codec().encode(plain, context());
    expect(packed.length).toBeLessThan(plain.length + 300);
    expect(Buffer.compare(codec().decode(packed, context()), plain)).toBe(0);
    expect(Buffer.compare(codec().decode(packed, context({}, plain.length)), plain)).toBe(0);
  });
});

describe('LZX', () => {
  const codec = () => findCodec('lzx')!;
  test.each([
    ['a cabinet', { window: 16, form: 'cabinet', reset: 0 }],
    ['a cabinet that begins anew', { window: 21, form: 'cabinet', reset: 2 }],
  ] as const)('%s comes back in blocks that are not compressed', (_, params) => {
    for (const plain of Object.values(SAMPLES))
      expect(Buffer.compare(codec().decode(codec().encode(plain, context(params)), context(params)), plain)).toBe(0);
  });
  test('a chunk of an image comes back, its calls among it', () => {
    const plain = SAMPLES['program']!.subarray(0, CHUNK - 1);
    const params = { window: 15, form: 'image', reset: 0 };
    const packed = codec().encode(plain, context(params));
    expect(Buffer.from(packed).includes(plain.subarray(0, 100))).toBe(false);
    expect(Buffer.compare(codec().decode(packed, context(params, plain.length)), plain)).toBe(0);
  });
  test('a window that there is not', () => {
    expect(() => codec().decode(Buffer.from('x'), context({ window: 14, form: 'image', reset: 0 }))).toThrow(
      expect.objectContaining({ fault: expect.objectContaining({ what: 'lzx cannot work with this window' }) }),
    );
  });
});

test.each(['xpress-huffman', 'lzx'])('%s that is cut off or damaged ends with a fault', (name) => {
  const codec = findCodec(name)!;
  const params: Record<string, ParamValue> = name === 'lzx' ? { window: 15, form: 'image', reset: 0 } : {};
  const [{ packed, plain }] = packedChunks('text', name === 'lzx' ? 'LZX' : 'XPRESS') as [
    { packed: Buffer; plain: Buffer },
  ];
  for (let i = 0; i < 60; i++) {
    const bad = Buffer.from(packed);
    if (i < 20) bad[random(bad.length)]! ^= 1 << random(8);
    const cut = i < 20 ? bad : bad.subarray(0, random(bad.length));
    try {
      codec.decode(cut, context(params, plain.length));
    } catch (error) {
      expect((error as { fault?: { code: string } }).fault?.code).toMatch(/^(codec-failed|size-differs)$/u);
    }
  }
});
