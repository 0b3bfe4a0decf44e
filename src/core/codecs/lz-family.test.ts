/** The codecs written here against programs and readers of their own: bzip2, 7z, lzop, and short decoders in Python. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { buf } from 'adler-32';
import { findCodec, prepareCodecs, type ParamValue } from './index';

const folder = mkdtempSync(join(tmpdir(), 'zero-latch-lz-'));
beforeAll(prepareCodecs);
afterAll(() => rmSync(folder, { recursive: true }));

const context = (params: Record<string, ParamValue> = {}, plainSize?: number) => ({
  params,
  maxPlainBytes: 1 << 24,
  ...(plainSize === undefined ? {} : { plainSize }),
});

let seed = 7;
const random = (below: number) => (seed = (Math.imul(seed, 1103515245) + 12345) >>> 0) % below;
/** Texts, noise, runs, and copies from far away. */
const SAMPLES: readonly Buffer[] = [
  Buffer.alloc(0),
  Buffer.from('a'),
  Buffer.from('The cabin leaves the valley station. '.repeat(200)),
  Buffer.from(Uint8Array.from({ length: 5_000 }, () => random(256))),
  Buffer.alloc(100_000, 'ab'),
  Buffer.from(Uint8Array.from({ length: 70_000 }, (_, i) => (random(9) === 0 ? random(256) : (i >> 5) & 0x3f))),
  Buffer.concat([Buffer.from(Uint8Array.from({ length: 40_000 }, () => random(4))), Buffer.alloc(3, 9)]),
];

const tool = (program: string, args: readonly string[], input?: Uint8Array) =>
  execFileSync(program, args, { input: input ?? '', maxBuffer: 1 << 27, stdio: ['pipe', 'pipe', 'ignore'] });

describe('bzip2', () => {
  const codec = () => findCodec('bzip2')!;
  test.each(SAMPLES.map((plain, i) => [i, plain] as const))('sample %d goes both ways with the tool', (_, plain) => {
    expect(Buffer.compare(tool('bzip2', ['-dc'], codec().encode(plain, context({ level: 1 }))), plain)).toBe(0);
    expect(Buffer.compare(codec().decode(tool('bzip2', ['-c'], plain), context({}, plain.length)), plain)).toBe(0);
  });
  test('packs as well as the tool, within a twentieth', () => {
    const plain = Buffer.concat(SAMPLES);
    expect(codec().encode(plain, context()).length).toBeLessThan(tool('bzip2', ['-c'], plain).length * 1.05);
  });
  test('a bomb ends at the limit', () => {
    const bomb = tool('bzip2', ['-c'], Buffer.alloc(1 << 22));
    expect(() => codec().decode(bomb, { params: {}, maxPlainBytes: 1 << 20 })).toThrow(
      expect.objectContaining({ fault: expect.objectContaining({ code: 'limit-reached' }) }),
    );
  });
});

/** One file in a ZIP without its checks: what 7z reads and writes. */
function zipOf(stored: Uint8Array, plain: Uint8Array, method: number): Buffer {
  const crc = Number.parseInt(
    tool('python3', ['-c', 'import sys,zlib;print(zlib.crc32(sys.stdin.buffer.read()))'], plain).toString(),
    10,
  );
  const local = Buffer.alloc(31);
  local.write('PK\x03\x04', 'latin1');
  local.writeUInt16LE(21, 4);
  local.writeUInt16LE(method, 8);
  local.writeUInt32LE(crc, 14);
  local.writeUInt32LE(stored.length, 18);
  local.writeUInt32LE(plain.length, 22);
  local.writeUInt16LE(1, 26);
  local.write('f', 30);
  const central = Buffer.alloc(47);
  central.write('PK\x01\x02', 'latin1');
  local.copy(central, 6, 4, 28);
  central.write('f', 46);
  const end = Buffer.alloc(22);
  end.write('PK\x05\x06', 'latin1');
  end.writeUInt16LE(1, 8);
  end.writeUInt16LE(1, 10);
  end.writeUInt32LE(central.length, 12);
  end.writeUInt32LE(local.length + stored.length, 16);
  return Buffer.concat([local, stored, central, end]);
}

describe('deflate64', () => {
  const codec = () => findCodec('deflate64')!;
  test.each(SAMPLES.slice(1).map((plain, i) => [i + 1, plain] as const))(
    'sample %d goes both ways with 7z',
    (i, plain) => {
      const ours = join(folder, `ours-${i}.zip`);
      writeFileSync(ours, zipOf(codec().encode(plain, context()), plain, 9));
      expect(Buffer.compare(tool('7z', ['x', '-so', ours]), plain)).toBe(0);
      writeFileSync(join(folder, 'f'), plain);
      const theirs = join(folder, `theirs-${i}.zip`);
      tool('7z', ['a', '-tzip', '-mm=Deflate64', '-mx=9', theirs, join(folder, 'f')]);
      const zip = readFileSync(theirs);
      if (zip.readUInt16LE(8) === 0) return;
      expect(zip.readUInt16LE(8)).toBe(9);
      const start = 30 + zip.readUInt16LE(26) + zip.readUInt16LE(28);
      const stored = zip.subarray(start, start + zip.readUInt32LE(18));
      expect(Buffer.compare(codec().decode(stored, context({}, plain.length)), plain)).toBe(0);
    },
  );
});

test.each(SAMPLES.slice(1).map((plain, i) => [i + 1, plain] as const))('lzop unpacks sample %d', (_, plain) => {
  const stored = findCodec('lzo1x')!.encode(plain, context());
  expect(Buffer.compare(findCodec('lzo1x')!.decode(stored, context({}, plain.length)), plain)).toBe(0);
  if (stored.length >= plain.length) return;
  // Version, library and version needed, method 1 at level 5, the flag for a checksum of the plain bytes, a mode.
  const head = Buffer.from('1030208009400105' + '00000001' + '000081a4', 'hex');
  const header = Buffer.concat([head, Buffer.alloc(9)]);
  const sum = Buffer.alloc(4);
  sum.writeUInt32BE(buf(header) >>> 0);
  const block = Buffer.alloc(12);
  block.writeUInt32BE(plain.length, 0);
  block.writeUInt32BE(stored.length, 4);
  block.writeUInt32BE(buf(plain) >>> 0, 8);
  const magic = Buffer.from([0x89, 0x4c, 0x5a, 0x4f, 0x00, 0x0d, 0x0a, 0x1a, 0x0a]);
  const file = Buffer.concat([magic, header, sum, block, stored, Buffer.alloc(4)]);
  expect(Buffer.compare(tool('lzop', ['-dc'], file), plain)).toBe(0);
});

/** Decoders written from the descriptions alone, bit by bit; a case is its name, parameters, plain size and bytes. */
const PYTHON = `
import sys, json, base64
def lzf(b, p, n):
    o = bytearray(); i = 0
    while i < len(b):
        c = b[i]; i += 1
        if c < 32:
            o += b[i:i + c + 1]; i += c + 1
        else:
            l = c >> 5
            if l == 7: l += b[i]; i += 1
            r = len(o) - ((c & 31) << 8) - b[i] - 1; i += 1
            for _ in range(l + 2): o.append(o[r]); r += 1
    return o
def lzss(b, p, n):
    size = 1 << p['window']; ring = bytearray([p['fill']]) * size
    most = p['least'] + (1 << p['length']) - 1
    r = p['start'] if p['start'] >= 0 else max(0, size - most)
    o = bytearray(); i = 0; width = (p['window'] + p['length']) // 8
    def put(x):
        nonlocal r
        o.append(x); ring[r] = x; r = (r + 1) % size
    while i < len(b) and len(o) < n:
        flags = int.from_bytes(b[i:i + p['group'] // 8], p['order']); i += p['group'] // 8
        for k in range(p['group']):
            if len(o) >= n: break
            f = flags >> (k if p['flags'] == 'low' else p['group'] - 1 - k) & 1
            if f == p['literal']:
                put(b[i]); i += 1; continue
            v = int.from_bytes(b[i:i + width], p['order']); i += width
            L = p['length']
            if p['pair'] == 'split':
                off = v & 255 | (v >> 8 + L) << 8; l = v >> 8 & (1 << L) - 1
            elif p['pair'] == 'offset-first':
                off = v >> L; l = v & (1 << L) - 1
            else:
                off = v & size - 1; l = v >> p['window']
            at = off if p['offsets'] == 'absolute' else (r - off - p['base']) % size
            for _ in range(l + p['least']): put(ring[at]); at = (at + 1) % size
    return o
def huffman(b, p, n):
    if n == 0: return b''
    kept = p.get('kept', 'bytes')
    if kept == 'nibbles': lens = [x for y in b[:128] for x in (y >> 4, y & 15)]; b = b[128:]
    else: lens = list(b[:256]); b = b[256:]
    codes = {}; code = 0
    for l in range(1, 25):
        code <<= 1
        for s, own in enumerate(lens):
            if own == l: codes[(l, code)] = s; code += 1
    bits = ''.join(f'{x:08b}'[::-1 if p['bits'] == 'low' else 1] for x in b)
    o = bytearray(); i = 0
    while len(o) < n:
        l = 1; code = int(bits[i])
        while (l, code) not in codes: code = code * 2 + int(bits[i + l]); l += 1
        o.append(codes[(l, code)]); i += l
    return o
for line in sys.stdin:
    name, p, n, data = json.loads(line)
    print(base64.b64encode(globals()[name](base64.b64decode(data), p, n)).decode())
`;

test('Python reads what LZF, LZSS of 60 variants and Huffman write', () => {
  const pick = <T>(of: readonly T[]): T => of[random(of.length)]!;
  const SPLIT: readonly (readonly [number, number])[] = [
    [12, 4],
    [11, 5],
    [10, 6],
    [13, 3],
  ];
  const WHOLE: readonly (readonly [number, number])[] = [
    [12, 4],
    [11, 5],
    [8, 8],
    [16, 8],
    [20, 4],
  ];
  const cases: { name: string; params: Record<string, ParamValue>; plain: Buffer }[] = [];
  const small = SAMPLES.map((plain) => plain.subarray(0, 20_000));
  for (const plain of small) {
    cases.push({ name: 'lzf', params: {}, plain });
    for (const bits of ['high', 'low'])
      for (const kept of ['bytes', 'nibbles']) cases.push({ name: 'huffman', params: { bits, kept }, plain });
  }
  for (let i = 0; i < 60; i++) {
    const pair = pick(['split', 'offset-first', 'length-first'] as const);
    const [window, length] = pick(pair === 'split' ? SPLIT : WHOLE);
    const params = {
      ...{ window, length, pair, least: pick([2, 3, 4]), flags: pick(['low', 'high']), group: pick([8, 16, 32]) },
      ...{ literal: random(2), offsets: pick(['absolute', 'relative']), start: pick([-1, 0, 100]), base: random(3) },
      ...{ fill: pick([0, 0x20]), order: pick(['little', 'big']) },
    };
    cases.push({ name: 'lzss', params, plain: pick(small) });
  }
  const lines = cases.map(({ name, params, plain }) => {
    const stored = findCodec(name)!.encode(plain, context(params));
    const again = findCodec(name)!.decode(stored, context(params, plain.length));
    expect(Buffer.compare(again, plain)).toBe(0);
    return JSON.stringify([name, params, plain.length, Buffer.from(stored).toString('base64')]);
  });
  const told = tool('python3', ['-c', PYTHON], Buffer.from(lines.join('\n')))
    .toString()
    .trimEnd()
    .split('\n');
  expect(told).toHaveLength(cases.length);
  for (const [i, { name, params, plain }] of cases.entries())
    expect([name, params, Buffer.from(told[i]!, 'base64').equals(plain)]).toEqual([name, params, true]);
});

test('a match that reaches before the first byte reads what the window begins with', () => {
  const params = { fill: 0x20 };
  // Flags for two matches, both at the start of the window, which is 4078 bytes of blanks away.
  const stored = Uint8Array.of(0, 0x00, 0x00, 0x03, 0x01);
  expect(Buffer.from(findCodec('lzss')!.decode(stored, context(params))).toString()).toBe('       ');
});

test('Xpress gives the bytes of its description, section 3.1, and takes them back', () => {
  const codec = findCodec('xpress')!;
  const letters = Buffer.from('abcdefghijklmnopqrstuvwxyz');
  const many = Buffer.from('abc'.repeat(100));
  const packed = { letters: `3f000000${letters.toString('hex')}`, many: 'ffffff1f61626317000fff2601' };
  expect(Buffer.from(codec.encode(letters, context())).toString('hex')).toBe(packed.letters);
  expect(Buffer.from(codec.encode(many, context())).toString('hex')).toBe(packed.many);
  expect(Buffer.from(codec.decode(Buffer.from(packed.letters, 'hex'), context()))).toEqual(letters);
  expect(Buffer.from(codec.decode(Buffer.from(packed.many, 'hex'), context()))).toEqual(many);
  for (const plain of SAMPLES)
    expect(Buffer.compare(codec.decode(codec.encode(plain, context()), context({}, plain.length)), plain)).toBe(0);
});
