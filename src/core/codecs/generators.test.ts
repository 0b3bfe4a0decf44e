import fc from 'fast-check';
import { keystream, linearCongruential, smallKeystream, xorshift } from './generators';

const word = fc.bigInt({ min: 0n, max: (1n << 64n) - 1n });

/** Bytes of states that are worked out with whole numbers of any size. */
function expected(states: Iterable<bigint>, shift: number, width: number, length: number): number[] {
  const bytes: number[] = [];
  for (const state of states) {
    for (let k = 0; k < width && bytes.length < length; k++)
      bytes.push(Number((state >> BigInt(shift + 8 * k)) & 0xffn));
    if (bytes.length >= length) break;
  }
  return bytes;
}

const made = (stream: (bytes: Uint8Array) => void, length: number): number[] => {
  const bytes = new Uint8Array(length);
  // In two pieces: it goes on where it was.
  stream(bytes.subarray(0, 5));
  stream(bytes.subarray(5));
  return [...bytes];
};

test('a linear congruential generator is exact at every width', () => {
  fc.assert(
    fc.property(
      word,
      word,
      word,
      fc.integer({ min: 1, max: 64 }),
      fc.integer({ min: 0, max: 63 }),
      fc.integer({ min: 1, max: 8 }),
      fc.boolean(),
      (seed, multiply, add, bits, shift, width, first) => {
        function* states() {
          let state = BigInt.asUintN(bits, seed);
          if (first) yield state;
          for (;;) yield (state = BigInt.asUintN(bits, state * multiply + add));
        }
        const stream = keystream(linearCongruential(seed, multiply, add, bits), shift, width, first);
        expect(made(stream, 40)).toEqual(expected(states(), shift, width, 40));
      },
    ),
  );
});

test.each([32, 64] as const)('xorshift of %s bits is exact', (bits) => {
  const [a, b, c] = bits === 64 ? [13n, 7n, 17n] : [13n, 17n, 5n];
  fc.assert(
    fc.property(word, (seed) => {
      function* states() {
        let state = BigInt.asUintN(bits, seed);
        for (;;) {
          state ^= BigInt.asUintN(bits, state << a!);
          state ^= state >> b!;
          state ^= BigInt.asUintN(bits, state << c!);
          yield state;
        }
      }
      expect(made(keystream(xorshift(seed, bits), 0, bits / 8), 40)).toEqual(expected(states(), 0, bits / 8, 40));
    }),
  );
});

test('the quick way of 32 bits gives the same', () => {
  const int = fc.integer({ min: -0x80000000, max: 0x7fffffff });
  fc.assert(
    fc.property(int, int, int, fc.integer({ min: 0, max: 8 }), fc.boolean(), (seed, multiply, add, shift, isFirst) => {
      const width = 3;
      const slow = linearCongruential(BigInt(seed), BigInt(multiply), BigInt(add), 32);
      expect(made(smallKeystream(seed, multiply, add, { shift, width, isFirst }), 40)).toEqual(
        made(keystream(slow, shift, width, isFirst), 40),
      );
    }),
  );
});
