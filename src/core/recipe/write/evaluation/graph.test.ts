import type { Value } from '../../formula/value';
import type { Field } from '../../model';
import { Graph } from './graph';

const field = (name: string, line: number) => ({ name, line, index: line }) as Field;

test('a field is worked out once a round', () => {
  const graph = new Graph('sample');
  const table = { id: 1 } as never;
  let times = 0;
  const ask = () =>
    graph.shared(
      table,
      3,
      field('size', 7),
      () => ++times,
      () => ++times,
    );
  expect([ask(), ask()]).toEqual([1, 1]);
  graph.begin();
  expect(ask()).toBe(2);
});

test('fields that need each other are named with their lines', () => {
  const graph = new Graph('sample');
  const [size, total] = [field('size', 7), field('total', 9)];
  const askSize = (): Value => graph.once({ owner: 'row', field: size, work: askSize }, askTotal, false);
  const askTotal = (): Value => graph.once({ owner: 'row', field: total, work: askTotal }, askSize, false);
  expect(askSize).toThrow(
    expect.objectContaining({
      fault: {
        code: 'recipe-circular',
        recipe: 'sample',
        line: 7,
        field: 'size',
        what: 'the formulas of size (line 7), total (line 9) need each other',
      },
    }),
  );
});

test('a running sum over very many rows takes no deep recursion', () => {
  const graph = new Graph('sample');
  const table = { id: 1 } as never;
  const at = field('at', 4);
  const offset = (row: number): Value =>
    graph.shared(
      table,
      row,
      at,
      () => (row === 0 ? 0 : Number(offset(row - 1)) + 2),
      () => offset(row),
    );
  expect(offset(20_000)).toBe(40_000);
});
