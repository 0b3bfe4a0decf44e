import { createCipheriv, createHash } from 'node:crypto';
import fc from 'fast-check';
import { AesBlocks, isExpandedKey } from '../codecs';
import { solveXor, solveXorAnywhere, xorWith } from '.';

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
