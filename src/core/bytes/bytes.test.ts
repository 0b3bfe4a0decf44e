import { mkdtempSync, readdirSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { bufferSource, collect, Cursor, RangeSet, readChunks, sliceSource, type ByteSource } from './index';
import { createFile, fileScratch, openFile, type FileSource } from './node';

const BYTES = Uint8Array.from({ length: 300 }, (_, i) => i % 251);
const folder = mkdtempSync(join(tmpdir(), 'zero-latch-bytes-'));
afterAll(() => rmSync(folder, { recursive: true }));

const opened: FileSource[] = [];
const scratch = fileScratch(folder);
afterAll(async () => {
  for (const source of opened) await source.close();
  await scratch.release();
});
const openKept = async (path: string) => {
  const source = await openFile(path);
  opened.push(source);
  return source;
};

const SOURCES: readonly [name: string, make: () => Promise<ByteSource>][] = [
  ['a buffer', async () => bufferSource(BYTES)],
  ['a slice', async () => sliceSource(bufferSource(Uint8Array.of(9, 9, ...BYTES, 9)), 2, BYTES.length)],
  [
    'a file',
    async () => {
      writeFileSync(join(folder, 'source'), BYTES);
      return openKept(join(folder, 'source'));
    },
  ],
  ['a scratch', async () => scratch.keep([BYTES.subarray(0, 100), BYTES.subarray(100)], 'kept')],
];

describe.each(SOURCES)('%s', (_, make) => {
  test('reads exactly what is asked for, anywhere', async () => {
    const source = await make();
    expect(source.size).toBe(300);
    expect([...(await source.read(17, 40))]).toEqual([...BYTES.subarray(17, 57)]);
    expect((await source.read(300, 0)).length).toBe(0);
    expect([...(await collect(readChunks(source, 3, 290, { pieceSize: 7 })))]).toEqual([...BYTES.subarray(3, 293)]);
  });
  test.each([
    [299, 2],
    [301, 0],
    [-1, 1],
    [0, -1],
    [NaN, 1],
  ])('refuses to read %d + %d bytes, never gives fewer', async (offset, length) => {
    const source = await make();
    await expect(source.read(offset, length)).rejects.toMatchObject({ fault: { code: 'cut-short' } });
  });
});

test('a file that shrinks while it is read is told, not read as zeros', async () => {
  const path = join(folder, 'shrinking');
  writeFileSync(path, BYTES);
  const source = await openKept(path);
  truncateSync(path, 100);
  await expect(source.read(50, 200)).rejects.toMatchObject({ fault: { code: 'file-changed', offset: 100 } });
});

test('a file appears only when it is whole, and leaves nothing when it is given up', async () => {
  const path = join(folder, 'made');
  const sink = await createFile(path);
  await sink.write(BYTES);
  expect(readdirSync(folder)).not.toContain('made');
  await sink.abandon();
  expect(readdirSync(folder).filter((name) => name.includes('made'))).toEqual([]);
  const again = await createFile(path);
  await again.write(BYTES);
  await again.close();
  expect([...(await (await openKept(path)).read(0, 300))]).toEqual([...BYTES]);
});

test('a stopped reading ends at once', async () => {
  const stop = new AbortController();
  stop.abort();
  await expect(collect(readChunks(bufferSource(BYTES), 0, 300, { signal: stop.signal }))).rejects.toMatchObject({
    fault: { code: 'stopped' },
  });
});

test('a cursor tells the offset in the file it was cut from', () => {
  const cursor = new Cursor(Uint8Array.of(1, 2, 3), 0x40);
  cursor.u16(true);
  expect(() => cursor.u32(true)).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'cut-short', offset: 0x42 }) }),
  );
});

test('64-bit numbers stay exact', () => {
  fc.assert(
    fc.property(fc.bigInt(0n, 2n ** 64n - 1n), fc.boolean(), (value, little) => {
      const bytes = new Uint8Array(8);
      new DataView(bytes.buffer).setBigUint64(0, value, little);
      expect(BigInt(new Cursor(bytes).u64(little))).toBe(value);
    }),
  );
});

test('a range set holds what a set of single offsets holds', () => {
  const ranges = fc.array(fc.tuple(fc.nat(200), fc.nat(30)), { maxLength: 20 });
  fc.assert(
    fc.property(ranges, (added) => {
      const set = new RangeSet();
      const naive = new Set<number>();
      for (const [at, length] of added) {
        set.add(at, length);
        for (let i = at; i < at + length; i++) naive.add(i);
      }
      expect(set.size()).toBe(naive.size);
      const missing = set.missing(240).flatMap(({ at, length }) => Array.from({ length }, (_, i) => at + i));
      expect(missing).toEqual(Array.from({ length: 240 }, (_, i) => i).filter((i) => !naive.has(i)));
    }),
  );
});

test('a file that starts as a copy keeps what is skipped, and ends where its last byte is', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'zero-latch-copy-'));
  writeFileSync(join(folder, 'old'), 'the cabin is red, and the rest goes');
  const sink = await createFile(join(folder, 'new'), { from: join(folder, 'old') });
  await sink.skip!(13);
  await sink.write(Buffer.from('new'));
  await sink.skip!(5);
  await sink.write(Buffer.from('all'));
  await sink.close();
  expect(readFileSync(join(folder, 'new'), 'utf8')).toBe('the cabin is new, andall');
  expect(readdirSync(folder).sort()).toEqual(['new', 'old']);
  rmSync(folder, { recursive: true });
});
