import { lstatSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createFile } from './node';

let folder: string;
let outside: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'zero-latch-create-'));
  outside = mkdtempSync(join(tmpdir(), 'zero-latch-outside-'));
});
afterEach(() => {
  rmSync(folder, { recursive: true });
  rmSync(outside, { recursive: true });
});

const SMALL = Buffer.from('new');
const LARGE = Buffer.alloc(3 << 20, 7);

async function written(path: string, bytes: Uint8Array, options = {}): Promise<void> {
  const sink = await createFile(path, { durable: false, ...options });
  try {
    for (let at = 0; at < bytes.length; at += 50_000) await sink.write(bytes.subarray(at, at + 50_000));
    await sink.close();
  } catch (error) {
    await sink.abandon();
    throw error;
  }
}

describe.each([
  ['small', SMALL],
  ['large', LARGE],
])('a %s file', (_, bytes) => {
  test('takes the place of the one that was there, or refuses to', async () => {
    const path = join(folder, 'a.txt');
    writeFileSync(path, 'old');
    await expect(written(path, bytes, { replace: false })).rejects.toMatchObject({ fault: { code: 'conflict' } });
    expect(readFileSync(path, 'utf8')).toBe('old');
    await written(path, bytes);
    expect(readFileSync(path).equals(bytes)).toBe(true);
    expect(readdirSync(folder)).toEqual(['a.txt']);
  });

  test('is new where nothing was, also when it may replace nothing', async () => {
    await written(join(folder, 'a.txt'), bytes, { replace: false });
    expect(readFileSync(join(folder, 'a.txt')).equals(bytes)).toBe(true);
    expect(readdirSync(folder)).toEqual(['a.txt']);
  });

  test('takes the place of a link, and what the link leads to stays', async () => {
    writeFileSync(join(outside, 'precious'), 'old');
    symlinkSync(join(outside, 'precious'), join(folder, 'a.txt'));
    await expect(written(join(folder, 'a.txt'), bytes, { replace: false })).rejects.toMatchObject({
      fault: { code: 'conflict' },
    });
    await written(join(folder, 'a.txt'), bytes);
    expect(lstatSync(join(folder, 'a.txt')).isSymbolicLink()).toBe(false);
    expect(readFileSync(join(outside, 'precious'), 'utf8')).toBe('old');
  });

  test('has an unpredictable temporary name', async () => {
    const names = new Set<string>();
    for (let i = 0; i < 3; i++) {
      const sink = await createFile(join(folder, 'a.txt'), { durable: false });
      await sink.write(LARGE);
      for (const name of readdirSync(folder)) names.add(name);
      await sink.abandon();
    }
    expect(names.size).toBe(3);
    expect(readdirSync(folder)).toEqual([]);
  });
});

test('a name as long as a file system takes is no longer while the file is written', async () => {
  const name = `${'n'.repeat(251)}.txt`;
  await written(join(folder, name), LARGE);
  expect(readdirSync(folder)).toEqual([name]);
});

test('a folder that is not there is told with the name of the file', async () => {
  await expect(written(join(folder, 'gone', 'a.txt'), SMALL)).rejects.toMatchObject({
    fault: { code: 'not-found', file: 'a.txt' },
  });
});
