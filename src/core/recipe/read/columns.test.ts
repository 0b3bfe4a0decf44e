import fc from 'fast-check';
import { ListColumn, NumberColumn, StretchColumn, WideColumn } from './columns';

test('64-bit columns give back every number, and absence', () => {
  const numbers = fc.array(fc.option(fc.bigInt(0n, 2n ** 64n - 1n)), { maxLength: 50 });
  fc.assert(
    fc.property(numbers, (values) => {
      const column = new WideColumn(false);
      for (const [row, value] of values.entries()) {
        if (value === null) column.putAbsent(row);
        else column.put(row, value <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(value) : value);
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
      values.forEach((value, row) => column.put(row, value));
      values.forEach((value, row) => expect(BigInt(column.get(row) as number)).toBe(value));
    }),
  );
});

test('a column with room for some rows takes more', () => {
  const column = new NumberColumn('u16');
  column.reserve(2);
  for (let i = 0; i < 1000; i++) column.put(i, i);
  expect(column.get(999)).toBe(999);
});

test('stretches are views of the bytes they came from, decoded when asked for', () => {
  const bytes = Buffer.from('cabin,rope');
  const column = new StretchColumn((stretch) => Buffer.from(stretch).toString());
  column.put(0, bytes, 0, 5);
  column.putAbsent(1);
  column.put(2, bytes, 6, 4);
  expect([column.get(0), column.get(1), column.get(2)]).toEqual(['cabin', undefined, 'rope']);
  expect((column.kept(2) as Uint8Array).buffer).toBe(bytes.buffer);
  column.put(3, Buffer.from('another buffer'), 0, 7);
  expect([0, 2, 3].map((row) => column.get(row))).toEqual(['cabin', 'rope', 'another']);
});

test('lists know their own items', () => {
  const items = new NumberColumn('u8');
  const lists = new ListColumn(items);
  for (const [row, list] of [[1, 2], [], [3]].entries()) {
    const { first } = lists.open(row);
    list.forEach((item, n) => items.put(first + n, item));
    lists.close(row, list.length);
  }
  lists.putAbsent(3);
  expect([0, 1, 2].map((row) => lists.get(row)!.length)).toEqual([2, 0, 1]);
  expect(lists.get(2)!.at(0)).toBe(3);
  expect(lists.get(3)).toBeUndefined();
});
