/** What a hostile or a large file may cost: memory and time of the command line, measured in a process of its own. */
import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { commandLine } from '../support/command-line';

const work = mkdtempSync(join(tmpdir(), 'zero-latch-bounds-'));
afterAll(() => rmSync(work, { recursive: true, force: true }));

const MOST_MEGABYTES = 512;
const PLAIN_BYTES = 400 << 20;

const bombRecipe = (codec: string, says: boolean) => `recipe: bomb
title: Bomb
revision: 1
numbers: little
match: { at: 0, bytes: BOMB }
shapes:
  header:
    - { field: magic, as: ascii(4), must: BOMB }
    - { field: count, as: u32, is: count(entries) }
    - { field: rows, as: 'row[count]' }
  row:
    - { field: path, as: ascii(16), is: entry.path }
    - { field: at, as: u32, is: entry.at }
    - { field: stored, as: u32, is: entry.stored }
    - { field: size, as: u32, ${says ? 'is: entry.size' : 'new: 0'} }
regions:
  - { region: head, at: 0, holds: header }
  - { region: data, holds: entries }
presents: archive
entries:
  each: row in head.rows
  path: row.path
  at: row.at
  stored: row.stored
  ${says ? 'size: row.size' : ''}
  method: 0
  methods: { 0: [${codec}] }
`;

function writeBomb(name: string, packed: Uint8Array): string {
  const head = Buffer.alloc(36);
  head.write('BOMB');
  head.writeUInt32LE(1, 4);
  head.write('zeros.bin', 8);
  head.writeUInt32LE(36, 24);
  head.writeUInt32LE(packed.length, 28);
  head.writeUInt32LE(PLAIN_BYTES, 32);
  const path = join(work, name);
  writeFileSync(path, Buffer.concat([head, packed]));
  return path;
}

const PYTHON: Readonly<Record<string, string>> = {
  zlib: 'import zlib; pack = zlib.compressobj(9)',
  xz: 'import lzma; pack = lzma.LZMACompressor(lzma.FORMAT_XZ, preset=0)',
  'lzma-alone': 'import lzma; pack = lzma.LZMACompressor(lzma.FORMAT_ALONE, preset=0)',
};
const TOOLS: Readonly<Record<string, readonly string[]>> = {
  zstd: ['zstd', '-q', '-c'],
  brotli: ['brotli', '-q', '1', '-c'],
  'lz4-frame': ['lz4', '-q', '-c'],
};

/** Zeros, packed by a tool that is not ours. */
function packedZeros(codec: string): Uint8Array {
  const megabytes = PLAIN_BYTES >> 20;
  const python = PYTHON[codec];
  const command =
    python === undefined
      ? `head -c ${PLAIN_BYTES} /dev/zero | ${TOOLS[codec]!.join(' ')}`
      : `python3 -c '${python}
import sys
for _ in range(${megabytes}): sys.stdout.buffer.write(pack.compress(bytes(1 << 20)))
sys.stdout.buffer.write(pack.flush())'`;
  return new Uint8Array(execFileSync('bash', ['-c', command], { maxBuffer: 1 << 28 }));
}

describe.each([...Object.keys(PYTHON), ...Object.keys(TOOLS)])('a stretch of %s that unpacks to very much', (codec) => {
  let bomb: string;
  beforeAll(() => {
    bomb = writeBomb(`${codec}.bomb`, packedZeros(codec));
  });

  // What a size that is told changes is the same for all of them.
  test.each(codec === 'zlib' ? [true, false] : [false])('is bounded in memory, its size told: %s', (says) => {
    const recipe = join(work, `${codec}.yaml`);
    writeFileSync(recipe, bombRecipe(codec === 'brotli' ? 'brotli(1)' : codec, says));
    for (const command of ['prove', 'take', 'put']) {
      const to = join(work, 'out');
      const change = join(work, 'new.txt');
      writeFileSync(change, 'new');
      const more = { prove: [], take: ['--to', to], put: ['--to', to, '--change', `zeros.bin=${change}`] }[command]!;
      const { status, stderr, megabytes } = commandLine([command, bomb, '--recipe', recipe, ...more]);
      expect(megabytes).toBeLessThan(MOST_MEGABYTES);
      expect([0, 1]).toContain(status);
      if (status === 1 && command === 'take') expect(stderr).toContain('limit');
      if (status === 0 && command === 'take') expect(statSync(join(to, 'zeros.bin')).size).toBe(PLAIN_BYTES);
      rmSync(to, { recursive: true, force: true });
    }
  });
});

test('blocks without end are told', () => {
  const recipe = join(work, 'blocks.yaml');
  writeFileSync(
    recipe,
    `${bombRecipe('zlib', true).replace(/ {2}method: 0\n.*\n/u, '')}  blocks: { size: 1, stored: 0, through: [zlib] }\n`,
  );
  const bomb = writeBomb('blocks.bomb', new Uint8Array(PLAIN_BYTES / 1_000));
  const { status, stderr, seconds, megabytes } = commandLine([
    'take',
    bomb,
    '--recipe',
    recipe,
    '--to',
    join(work, 'out'),
  ]);
  expect({ status, stderr }).toMatchObject({ status: 1, stderr: expect.stringContaining('too many blocks') });
  expect(stderr).toContain('zeros.bin');
  expect(seconds).toBeLessThan(5);
  expect(megabytes).toBeLessThan(MOST_MEGABYTES);
});

const CHUNKS = `recipe: chunks
title: Chunks
revision: 1
numbers: little
match: { at: 0, bytes: CHNK }
shapes:
  header:
    - { field: magic, as: ascii(4), must: CHNK }
    - { field: size, as: u32, is: length(body) - 8 }
    - { field: chunks, as: 'chunk[to end]' }
  chunk:
    - { field: tag, as: ascii(4), must: FILE }
    - { field: size, as: u32, is: length(path) + length(data) }
    - { field: check, as: u32, is: crc32(entry.data) }
    - { field: path, as: 'text(12, utf-8)', is: entry.path }
    - { field: data, as: data(size - 12) }
regions:
  - { region: body, at: 0, holds: header }
presents: archive
entries:
  each: chunk in body.chunks
  path: chunk.path
  data: chunk.data
`;

beforeAll(() => {
  const script = `
import struct, sys, zlib
for name, count in ("chunks.bin", 100_000), ("fewer.bin", 5_000):
    out = bytearray()
    for i in range(count):
        data = b"%06d" % i + b"x" * (i % 7)
        out += struct.pack("<4sII", b"FILE", 12 + len(data), zlib.crc32(data)) + b"%011d\\0" % i + data
    open(name, "wb").write(b"CHNK" + struct.pack("<I", len(out)) + out)
`;
  execFileSync('python3', ['-c', script], { cwd: work });
  writeFileSync(join(work, 'chunks.yaml'), CHUNKS);
});

test('a hundred thousand small chunks are proven in seconds', () => {
  const { status, stdout, seconds } = commandLine(['prove', 'chunks.bin', '--recipe', 'chunks.yaml'], {
    cwd: work,
  });
  expect({ status, stdout }).toMatchObject({ status: 0, stdout: expect.stringContaining('identical') });
  expect(seconds).toBeLessThan(30);
});

test('whoever reads only the first lines of a list ends it without an error', () => {
  const program = join(__dirname, '../../bin/zero-latch');
  const line = `'${program}' list chunks.bin --recipe chunks.yaml | head -n 2; echo \${PIPESTATUS[0]}`;
  const { stdout, stderr } = spawnSync('bash', ['-c', line], { cwd: work, encoding: 'utf8' });
  expect(stderr).toBe('');
  expect(stdout.split('\n').slice(0, 3)).toEqual([
    expect.stringContaining('00000000000'),
    expect.stringContaining('00000000001'),
    '141',
  ]);
});

test('many small things are kept in few open files', () => {
  // Each entry that changes is kept packed: more than a process may have open.
  const line = `ulimit -n 256; '${join(__dirname, '../../bin/zero-latch')}' prove fewer.bin --recipe chunks.yaml`;
  const { status, stderr } = spawnSync('bash', ['-c', line], { cwd: work, encoding: 'utf8' });
  expect({ status, stderr }).toEqual({ status: 0, stderr: '' });
});
