import fc from 'fast-check';
import { ListColumn, NumberColumn, StretchColumn, WideColumn } from './table';

test('64-bit columns give back every number, and absence', () => {
  const numbers = fc.array(fc.option(fc.bigInt(0n, 2n ** 64n - 1n)), { maxLength: 50 });
  fc.assert(
    fc.property(numbers, (values) => {
      const column = new WideColumn(false);
      for (const value of values) {
        if (value === null) column.pushAbsent();
        else column.push(value <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(value) : value);
      }
      values.forEach((value, row) =>
        expect(value === null ? column.get(row) : BigInt(column.get(row) as number)).toBe(value ?? undefined),
      );
    }),
  );
});

test('signed 64-bit columns keep the sign', () => {
  fc.assert(
    fc.property(fc.array(fc.bigInt(-(2n ** 63n), 2n ** 63n - 1n)), (values) => {
      const column = new WideColumn(true);
      for (const value of values) column.push(value);
      values.forEach((value, row) => expect(BigInt(column.get(row) as number)).toBe(value));
    }),
  );
});

test('a column with room for some rows takes more', () => {
  const column = new NumberColumn('u16');
  column.reserve(2);
  for (let i = 0; i < 1000; i++) column.push(i);
  expect(column.get(999)).toBe(999);
});

test('stretches are views of the bytes they came from, decoded when asked for', () => {
  const bytes = Buffer.from('cabin,rope');
  const column = new StretchColumn((stretch) => Buffer.from(stretch).toString());
  column.push(bytes, 0, 5);
  column.pushAbsent();
  column.push(bytes, 6, 4);
  expect([column.get(0), column.get(1), column.get(2)]).toEqual(['cabin', undefined, 'rope']);
  expect(column.kept(2)?.buffer).toBe(bytes.buffer);
});

test('lists know their own items', () => {
  const items = new NumberColumn('u8');
  const lists = new ListColumn(items);
  for (const list of [[1, 2], [], [3]]) {
    lists.push(list.length);
    for (const item of list) items.push(item);
  }
  lists.pushAbsent();
  expect([0, 1, 2].map((row) => lists.get(row)!.length)).toEqual([2, 0, 1]);
  expect(lists.get(2)!.at(0)).toBe(3);
  expect(lists.get(3)).toBeUndefined();
});
