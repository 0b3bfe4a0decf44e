import fc from 'fast-check';
import { compareBytes, moreDetailed, MOST_DIFFERENCES } from './index';

test('what is said to be equal is, and what is said to differ does', () => {
  const bytes = fc.array(fc.constantFrom(0, 1, 2), { maxLength: 40 }).map((list) => Uint8Array.from(list));
  fc.assert(
    fc.property(bytes, bytes, (left, right) => {
      const { same, differences } = compareBytes(left, right);
      expect(same).toBe(Buffer.from(left).equals(Buffer.from(right)));
      // Putting the right side's stretches into the left makes the right.
      const parts: Uint8Array[] = [];
      let at = 0;
      for (const one of differences) {
        parts.push(left.subarray(at, one.left), right.subarray(one.right, one.right + one.rightLength));
        at = one.left + one.leftLength;
      }
      expect([...Buffer.concat([...parts, left.subarray(at)])]).toEqual([...right]);
    }),
  );
});

test('something put in between moves what follows', () => {
  const { differences } = compareBytes(Buffer.from('head tail'), Buffer.from('head more tail'));
  expect(differences).toEqual([{ left: 5, leftLength: 0, right: 5, rightLength: 5 }]);
});

test('differences without end are cut, and it is said', () => {
  const left = new Uint8Array(MOST_DIFFERENCES * 20);
  const right = left.map((_, i) => (i % 10 === 0 ? 1 : 0));
  const { differences, cut } = compareBytes(left, right);
  expect(differences).toHaveLength(MOST_DIFFERENCES);
  expect(cut).toBe(true);
});

test.each([
  [{ picture: { width: 512, height: 512 } }, { picture: { width: 256, height: 256 } }, /^a is the more detailed one/],
  [
    { picture: { width: 64, height: 64 } },
    { picture: { width: 64, height: 64 } },
    /^Both have the same number of pixels/,
  ],
  [
    { sound: { rate: 22_050, bits: 16, channels: 1, seconds: 1 } },
    { sound: { rate: 44_100, bits: 16, channels: 1, seconds: 2 } },
    /^b is the more detailed one: 22,050 Hz.*1\.0 and 2\.0 s\.$/,
  ],
  [{}, {}, /^b is the more detailed one: 1 and 2 bytes/],
])('%j and %j', (left, right, said) => {
  expect(moreDetailed({ name: 'a', size: 1, ...left }, { name: 'b', size: 2, ...right })).toMatch(said);
});
