import fc from 'fast-check';
import type { Pixels } from './picture';
import { CHANNELS_APART, joinPart, parseSplit, splitPart } from './split';

const one = (...rgba: number[]): Pixels => ({ width: 1, height: 1, rgba: Uint8Array.from(rgba) });

test('parts are made of the channels the rule names, turned round where it says so', () => {
  const [normal, rough] = parseSplit('_normal: rgb; _rough: -a');
  const packed = one(10, 20, 30, 40);
  expect([...splitPart(packed, normal!).rgba]).toEqual([10, 20, 30, 255]);
  expect([...splitPart(packed, rough!).rgba]).toEqual([215, 215, 215, 255]);
  const [swapped] = parseSplit('_x: b g 0 1');
  expect([...splitPart(packed, swapped!).rgba]).toEqual([30, 20, 0, 255]);
});

test.each(['', 'normal', '_a: x', '_a: rg', '_a: rgbag', '_a: r; _a: g', 'a/b: r'])('%j is no rule', (rule) => {
  expect(() => parseSplit(rule)).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'invalid-request' }) }),
  );
});

test('what is split and joined is what it was, in whatever order', () => {
  const rules = fc.constantFrom(CHANNELS_APART, '_n: rgb; _r: -a', '_a: -b -g -r; _b: a', '_all: abgr');
  const pixels = fc.uint8Array({ minLength: 32, maxLength: 32 }).map((rgba) => ({ width: 4, height: 2, rgba }));
  fc.assert(
    fc.property(rules, pixels, fc.boolean(), (rule, packed, backwards) => {
      const parts = parseSplit(rule);
      const blank = { ...packed, rgba: new Uint8Array(packed.rgba.length) };
      const order = backwards ? parts.toReversed() : parts;
      const joined = order.reduce((sum, part) => joinPart(sum, part, splitPart(packed, part)), blank as Pixels);
      return Buffer.compare(joined.rgba, packed.rgba) === 0;
    }),
  );
});

test('a part that is joined leaves the other channels alone', () => {
  const [, rough] = parseSplit('_normal: rgb; _rough: -a');
  expect([...joinPart(one(1, 2, 3, 4), rough!, one(255, 255, 255, 255)).rgba]).toEqual([1, 2, 3, 0]);
});
