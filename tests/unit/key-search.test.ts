import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { writeHold } from '../../demo/archives/hold';
import { bufferSource } from '../../src/core/bytes';
import { AesBlocks } from '../../src/core/codecs';
import { searchKeys } from '../../src/core/keysearch';
import { compileRecipe, keyProbe } from '../../src/core/recipe';

/** Bytes that look random and are the same each time. */
function noise(length: number, seed: string): Buffer {
  const parts: Buffer[] = [];
  for (let i = 0; i * 32 < length; i++) parts.push(createHash('sha256').update(`${seed} ${i}`).digest());
  return Buffer.concat(parts).subarray(0, length);
}

/** The words of an expanded key: OpenSSL has no way to ask for them, so each round key is computed as FIPS 197 says. */
function scheduleOf(key: Buffer): Buffer {
  const machine = new AesBlocks(key.length);
  machine.expand(key);
  const words = (machine as unknown as { schedule: Int32Array }).schedule;
  const out = Buffer.alloc(words.length * 4);
  words.forEach((word, i) => out.writeInt32BE(word, i * 4));
  return out;
}

describe('searching a file for the key of an archive', () => {
  const key = noise(32, 'the key');
  const recipe = compileRecipe(readFileSync('recipes/hold-archive.yaml', 'utf8'));
  const assets = [{ path: 'a.txt', bytes: Buffer.from('the last cabin leaves at eight') }];
  const hold = writeHold(assets, { key, release: 'gp 1', built: 1 });
  const found = async (
    planted: Buffer,
    at: number,
    fill: (length: number) => Buffer = (length) => noise(length, 'fill'),
  ) => {
    const file = fill(at + planted.length + 3_000);
    planted.copy(file, at);
    const probe = (await keyProbe(recipe, [bufferSource(hold, 'core.hold')], 'content'))!;
    const keys = await searchKeys(bufferSource(file, 'program'), probe, { from: 0, to: file.length });
    for (const one of keys) expect(Buffer.from(one.key).equals(key)).toBe(true);
    return keys.map(({ at, written }) => ({ at, written }));
  };
  const text = (length: number) => Buffer.alloc(length, 'const greeting = "hello";\n');

  test.each([
    ['raw', key, 1_237],
    ['hex', Buffer.from(key.toString('hex')), 77],
    ['hex', Buffer.from(key.toString('hex').toUpperCase(), 'utf16le'), 1_001],
    ['base64', Buffer.from(key.toString('base64')), 4],
    ['base64', Buffer.from(key.toString('base64'), 'utf16le').swap16(), 3_000],
  ])('finds it %s', async (written, planted, at) => {
    const shift = planted[0] === 0 ? 1 : 0;
    expect(await found(planted, at, written === 'raw' ? undefined : text)).toEqual([{ at: at + shift, written }]);
  });

  test.each([false, true])('finds it expanded, with swapped words: %s', async (swapped) => {
    const schedule = scheduleOf(key);
    const planted = swapped ? schedule.swap32() : schedule;
    const keys = await found(planted, 505);
    expect(keys).toEqual([{ at: 505, written: swapped ? 'schedule' : 'raw' }]);
  });

  test('finds it over the edge of a piece, and a probe refuses every other key', async () => {
    const big = (length: number) => Buffer.alloc(length);
    expect(await found(key, (1 << 20) - 5, big)).toEqual([{ at: (1 << 20) - 5, written: 'raw' }]);
    expect(await found(noise(32, 'another'), 100)).toEqual([]);
  });

  test('a probe says how it judges, and there is none for a slot nothing is locked with', async () => {
    const files = [bufferSource(hold, 'core.hold')];
    expect(await keyProbe(recipe, files, 'content')).toMatchObject({
      bytes: 32,
      how: expect.stringMatching(/must|begin/),
    });
    expect(await keyProbe(recipe, files, 'other')).toBeUndefined();
  });
});
