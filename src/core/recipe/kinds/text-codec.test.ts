import fc from 'fast-check';
import { ENCODINGS, textCodec } from './text-codec';

test.each(ENCODINGS.flatMap((encoding) => [true, false].map((little) => [encoding, little] as const)))(
  '%s (little: %s) gives back every text it takes',
  (encoding, little) => {
    const codec = textCodec(encoding, little);
    // Half-width letters and signs alone are the same in every version of Shift-JIS.
    const most =
      ({ ascii: 0x7f, 'latin-1': 0xff, 'shift-jis': 0x5b, cp437: 0x7f } as Record<string, number>)[encoding] ??
      0x10ffff;
    const text = fc
      .string({ unit: 'binary' })
      .map((value) => [...value].filter((char) => char.codePointAt(0)! <= most).join(''));
    fc.assert(
      fc.property(text, (value) => {
        fc.pre(value.isWellFormed());
        expect(codec.decode(codec.encode(value))).toBe(value);
      }),
    );
  },
);

test.each([
  ['ascii', Uint8Array.of(0x80)],
  ['utf-8', Uint8Array.of(0xc3, 0x28)],
  ['utf-16', Uint8Array.of(0x00, 0xd8)],
] as const)('bytes that are no %s are told', (encoding, bytes) => {
  expect(() => textCodec(encoding, true).decode(bytes)).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'bad-text' }) }),
  );
});

test('a character without a place is refused, not replaced', () => {
  expect(() => textCodec('latin-1', true).encode('snow ❄')).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'bad-text' }) }),
  );
  expect(() => textCodec('utf-8', true).encode('\ud800')).toThrow();
});

test('names of which nothing says whether they are UTF-8 are when they can be, and else of code page 437', () => {
  const codec = textCodec('utf-8-or-cp437', true);
  expect(codec.decode(Buffer.from('Zürich'))).toBe('Zürich');
  // As Python's code page 437 has it.
  expect(codec.decode(Uint8Array.of(0x5a, 0x81, 0x72, 0x69, 0x63, 0x68))).toBe('Zürich');
  expect(textCodec('cp437', true).encode('Zürich ░')).toEqual(
    Uint8Array.of(0x5a, 0x81, 0x72, 0x69, 0x63, 0x68, 0x20, 0xb0),
  );
});

test('UTF-16 follows the endianness', () => {
  expect([...textCodec('utf-16', true).encode('A')]).toEqual([0x41, 0]);
  expect([...textCodec('utf-16', false).encode('A')]).toEqual([0, 0x41]);
});
