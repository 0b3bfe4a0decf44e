import { execFileSync } from 'node:child_process';
import type { Archive } from '../../recipe';
import { recordsAsCsv, recordsConverter } from './convert';

const entry = (path: string, text: string) => ({
  archive: {} as Archive,
  n: 0,
  path,
  head: Buffer.from(text).subarray(0, 512),
  bytes: () => Promise.resolve(Buffer.from(text)),
  recipes: [],
  companion: () => Promise.resolve(undefined),
});

/** Rows as Python's csv module reads them. */
const asPython = (csv: string | Uint8Array): string[][] =>
  JSON.parse(
    execFileSync(
      'python3',
      [
        '-c',
        'import csv,io,json,sys; print(json.dumps(list(csv.reader(io.TextIOWrapper(sys.stdin.buffer, "utf-8", newline="")))))',
      ],
      { input: csv, encoding: 'utf8' },
    ),
  ) as string[][];

test('JSON becomes one row a record: fields that one lacks are empty, lists stay lists', async () => {
  const json = JSON.stringify([
    { id: 1, name: 'Upper, "old" station', seats: [4, 6] },
    { id: 2, name: 'two\nlines', open: true },
  ]);
  const made = await recordsConverter.convert(entry('stations.json', json), 'csv');
  expect(asPython(made!.bytes)).toEqual([
    ['id', 'name', 'seats', 'open'],
    ['1', 'Upper, "old" station', '[4,6]', ''],
    ['2', 'two\nlines', '', 'true'],
  ]);
});

test('records of several tables have a column that names theirs', () => {
  const csv = recordsAsCsv([
    { table: 'a', pointer: [0], values: { x: 1 } },
    { table: 'b', pointer: [1], values: { y: null } },
  ]);
  expect(asPython(csv)).toEqual([
    ['table', 'x', 'y'],
    ['a', '1', ''],
    ['b', '', ''],
  ]);
});

test.each([
  ['a file of another form', 'a.png', 'x'],
  ['JSON that is none', 'a.json', '{'],
  ['JSON without records', 'a.json', '"text"'],
])('%s has no CSV', async (_, path, text) => {
  expect(await recordsConverter.convert(entry(path, text), 'csv')).toBeUndefined();
});
