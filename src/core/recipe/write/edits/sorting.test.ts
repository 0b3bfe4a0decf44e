import fc from 'fast-check';
import { isSorted, sortedOrder } from './sorting';

const keys = fc.array(fc.tuple(fc.integer({ min: 0, max: 5 }), fc.string({ maxLength: 2 })), { maxLength: 30 });

test('the order is that of the keys, and items with equal keys stay as they are', () => {
  fc.assert(
    fc.property(keys, (items) => {
      const order = [...sortedOrder(items.length, (i) => items[i]!)];
      expect([...order].sort((a, b) => a - b)).toEqual(items.map((_, i) => i));
      expect(isSorted(order.length, (i) => items[order[i]!]!)).toBe(true);
      for (let i = 1; i < order.length; i++) {
        const [before, now] = [items[order[i - 1]!]!, items[order[i]!]!];
        if (before[0] === now[0] && before[1] === now[1]) expect(order[i - 1]!).toBeLessThan(order[i]!);
      }
    }),
  );
});

test('what is out of order is seen', () => {
  expect(
    isSorted(
      3,
      (i) =>
        [
          [1, 'a'],
          [1, 'b'],
          [2, 'a'],
        ][i]!,
    ),
  ).toBe(true);
  expect(
    isSorted(
      3,
      (i) =>
        [
          [1, 'b'],
          [1, 'a'],
          [2, 'a'],
        ][i]!,
    ),
  ).toBe(false);
  expect(isSorted(0, () => [])).toBe(true);
});
