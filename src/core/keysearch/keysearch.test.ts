import { createCipheriv, createHash } from 'node:crypto';
import fc from 'fast-check';
import { writeHold } from '../../../demo/archives/hold';
import { bufferSource } from '../bytes';
import { AesBlocks, isExpandedKey } from '../codecs';
import { compileRecipe, keyProbe } from '../recipe';
import { readFileSync } from 'node:fs';
import { searchKeys, solveXor, solveXorAnywhere, xorWith } from '.';

/** Bytes that look random and are the same each time. */
function noise(length: number, seed: string): Buffer {
  const parts: Buffer[] = [];
  for (let i = 0; i * 32 < length; i++) parts.push(createHash('sha256').update(`${seed} ${i}`).digest());
  return Buffer.concat(parts).subarray(0, length);
}

describe('AES one block at a time', () => {
  test.each([16, 24, 32])('with %i-byte keys is what OpenSSL does', (length) => {
    for (let i = 0; i < 20; i++) {
      const key = noise(length, `key ${i}`);
      const plain = noise(16, `plain ${i}`);
      const cipher = createCipheriv(`aes-${length * 8}-ecb`, key, null).setAutoPadding(false);
      const stored = Buffer.concat([cipher.update(plain), cipher.final()]);
      const words = (bytes: Buffer) =>
        [0, 4, 8, 12].map((at) => bytes.readInt32BE(at)) as [number, number, number, number];
      const machine = new AesBlocks(length);
      machine.expand(Buffer.concat([Buffer.alloc(3), key]), 3);
      machine.encrypt(...words(plain));
      expect([...machine.block]).toEqual(words(stored));
      machine.decrypt(...words(stored));
      expect([...machine.block]).toEqual(words(plain));
    }
  });

  // FIPS 197, appendices A.1 and A.3.
  const FIPS_128 =
    '2b7e151628aed2a6abf7158809cf4f3ca0fafe1788542cb123a339392a6c7605f2c295f27a96b9435935807a7359f67f3d80477d4716fe3e1e237e446d7a883bef44a541a8525b7fb671253bdb0bad00d4d1c6f87c839d87caf2b8bc11f915bc6d88a37a110b3efddbf98641ca0093fd4e54f70e5f5fc9f384a64fb24ea6dc4fead27321b58dbad2312bf5607f8d292fac7766f319fadc2128d12941575c006ed014f9a8c9ee2589e13f0cc8b6630ca6';
  const FIPS_256 =
    '603deb1015ca71be2b73aef0857d77811f352c073b6108d72d9810a30914dff49ba354118e6925afa51a8b5f2067fcdea8b09c1a93d194cdbe49846eb75d5b9ad59aecb85bf3c917fee94248de8ebe96b5a9328a2678a647983122292f6c79b3812c81addadf48ba24360af2fab8b46498c5bfc9bebd198e268c3ba709e0421468007bacb2df331696e939e46c518d80c814e20476a9fb8a5025c02d59c58239de1369676ccc5a71fa2563959674ee155886ca5d2e2f31d77e0af1fa27cf73c3749c47ab18501ddae2757e4f7401905acafaaae3e4d59b349adf6acebd10190dfe4890d1e6188d0b046df344706c631e';
  test.each([
    [16, FIPS_128],
    [32, FIPS_256],
  ])('an expanded key of %i bytes is known by its words', (length, hex) => {
    const plain = Buffer.from(hex, 'hex');
    expect(isExpandedKey(plain, 0, length, false)).toBe(true);
    expect(isExpandedKey(Buffer.from(plain).swap32(), 0, length, true)).toBe(true);
    for (let i = length; i < plain.length; i += 7) {
      const wrong = Buffer.from(plain);
      wrong[i]! ^= 1;
      expect(isExpandedKey(wrong, 0, length, false)).toBe(false);
    }
    expect(isExpandedKey(plain, 4, length, false)).toBe(false);
  });
});

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

describe('solving a repeating XOR', () => {
  test('the shortest key is found at a known place and at an unknown one', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 1, maxLength: 12 }), fc.nat(200), (key, at) => {
        const known = Buffer.from('The cable car to the summit leaves');
        const plain = Buffer.concat([Buffer.alloc(at, 0x41), known, noise(50, 'behind')]);
        const stored = xorWith(plain, key);
        const solved = solveXor(stored, known, at)!;
        expect(solved.confirmed).toBe(known.length - solved.key.length);
        expect(solved.key.length).toBeLessThanOrEqual(key.length);
        expect(Buffer.from(xorWith(stored, solved.key)).equals(plain)).toBe(true);
        if (key.every((byte) => byte === 0)) return;
        const keys = solveXorAnywhere(stored, known).map((one) => Buffer.from(xorWith(stored, one.key)).equals(plain));
        expect(keys).toContain(true);
      }),
    );
  });

  test('a base turns the key to the start of the file; known bytes that do not lie in the file solve nothing', () => {
    const key = Uint8Array.of(1, 2, 3);
    const known = Buffer.from('RIFFsize');
    const file = xorWith(Buffer.concat([Buffer.alloc(5), known]), key);
    expect(solveXor(file.subarray(5), known, 0, 5)?.key).toEqual(key);
    expect(solveXor(file, known, 6)).toBeUndefined();
    expect(solveXorAnywhere(noise(2_000, 'no lock'), known)).toEqual([]);
  });
});
