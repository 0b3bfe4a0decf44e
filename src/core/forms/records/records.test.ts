import fc from 'fast-check';
import { Columns, readRecords, withCell } from '.';

const read = (text: string, path: string) => readRecords(Buffer.from(text), path);
const TIMES = `{
  "station": "Upper Fernegg",
  "switches": [120, 133],
  "departures": [
    { "at": "06:00", "to": "Quarry Halt", "cabin": 3 },
    { "at": "06:30", "to": "Belvarde", "cabin": 1.50 }
  ]
}
`;
const PATH = 'stations/station_07/timetable.json';

test('files that differ in numbers make one table, and lists in them tables of their own', () => {
  expect(read(TIMES, PATH)).toEqual([
    {
      table: 'stations/station_*/timetable.json',
      pointer: [],
      values: { station: 'Upper Fernegg', switches: [120, 133] },
    },
    {
      table: 'stations/station_*/timetable.json#departures',
      pointer: ['departures', 0],
      values: { at: '06:00', to: 'Quarry Halt', cabin: 3 },
    },
    {
      table: 'stations/station_*/timetable.json#departures',
      pointer: ['departures', 1],
      values: { at: '06:30', to: 'Belvarde', cabin: 1.5 },
    },
  ]);
});

test('objects of records are tables by key, and values inside values columns', () => {
  const text = '{"red":{"name":"Red","paint":{"gloss":2}},"blue":{"name":"Blue","paint":{"gloss":1}}}';
  expect(read(text, 'liveries.json').map(({ pointer, values }) => [pointer, values])).toEqual([
    [['red'], { key: 'red', name: 'Red', 'paint › gloss': 2 }],
    [['blue'], { key: 'blue', name: 'Blue', 'paint › gloss': 1 }],
  ]);
});

test('JSON lines, CSV and INI are records as well', () => {
  expect(read('{"id":1}\n\n{"id":2}\n', 'a.jsonl').map(({ pointer }) => pointer)).toEqual([[0], [2]]);
  expect(read('\ufeffid;name\n1;"a;b"\n02;c\n', 'a.csv').map(({ values }) => values)).toEqual([
    { id: 1, name: 'a;b' },
    { id: '02', name: 'c' },
  ]);
  expect(read('; sound\n[sound]\nvolume = 80\n[keys]\njump=Space\n', 'a.ini').map(({ values }) => values)).toEqual([
    { section: 'sound', key: 'volume', value: 80 },
    { section: 'keys', key: 'jump', value: 'Space' },
  ]);
});

test('one value is changed, and not a character besides it', () => {
  const changed = withCell(TIMES, PATH, ['departures', 1], 'cabin', '2.50');
  expect(changed).toBe(TIMES.replace('1.50', '2.50'));
  expect(withCell(TIMES, PATH, ['departures', 0], 'to', 'Sorrel "Gap"')).toBe(
    TIMES.replace('"Quarry Halt"', '"Sorrel \\"Gap\\""'),
  );
  expect(withCell(TIMES, PATH, [], 'switches', '[120, 134, 7]')).toBe(TIMES.replace('[120, 133]', '[120, 134, 7]'));
  const csv = 'id,name\r\n1,"a"\r\n2,b\r\n';
  expect(withCell(csv, 'a.csv', [1], 'name', 'b, c')).toBe('id,name\r\n1,"a"\r\n2,"b, c"\r\n');
  expect(withCell('[a]\r\n  x = 1 \r\ny=2', 'a.ini', [1], 'value', '5')).toBe('[a]\r\n  x = 5 \r\ny=2');
  expect(withCell('{"id":1}\n{"id":2}\n', 'a.jsonl', [1], 'id', '9')).toBe('{"id":1}\n{"id":9}\n');
});

test.each([
  ['a word for a number', ['departures', 0], 'cabin', 'three', 'a whole number'],
  ['half a number for a whole one', ['departures', 0], 'cabin', '1.5', 'a whole number'],
  ['a number for a list', [], 'switches', '120', 'a list, such as [1, 2, 3]'],
  ['words in a list of numbers', [], 'switches', '[1, "a"]', 'a list of number values'],
] as const)('%s is refused', (_, row, column, typed, expected) => {
  expect(() => withCell(TIMES, PATH, row, column, typed)).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'wrong-kind', expected, found: typed }) }),
  );
});

test.each([
  ['broken JSON', 'a.json', '{"a": 1,\n "b" 2}', { line: 2, expected: 'JSON' }],
  ['a broken line', 'a.jsonl', '{"a":1}\n{"a":\n', { line: 2 }],
  ['two columns of one name', 'a.csv', 'id,id\n1,2\n', { line: 1, what: 'two columns are called id' }],
  ['a quote that never ends', 'a.csv', 'id\n"abc\n', { expected: 'CSV' }],
])('%s is told with its place', (_, path, text, fault) => {
  expect(() => read(text, path)).toThrow(expect.objectContaining({ fault: expect.objectContaining(fault) }));
});

test('columns are told by what they hold', () => {
  const columns = new Columns();
  for (const row of [
    { a: 1, b: 1, c: 'x', d: true },
    { a: 5, b: 1.5, c: 2, e: [1] },
    { a: 3, b: null },
  ])
    columns.add({ values: row as never });
  expect(columns.all()).toMatchObject([
    { name: 'a', kind: 'whole', empty: 0, low: 1, high: 5 },
    { name: 'b', kind: 'number', empty: 1 },
    { name: 'c', kind: 'mixed', empty: 1 },
    { name: 'd', kind: 'yes-no', empty: 2 },
    { name: 'e', kind: 'list' },
  ]);
});

const names = fc.stringMatching(/^[a-z]{1,6}$/);
const flat = fc.dictionary(names, fc.oneof(fc.integer(), fc.string(), fc.boolean()), { minKeys: 1, maxKeys: 5 });

test('any value of any list of records can be set, and the others are what they were', () => {
  fc.assert(
    fc.property(
      fc.array(flat, { minLength: 1, maxLength: 6 }),
      fc.nat(),
      fc.nat(),
      fc.string(),
      (records, some, which, text) => {
        const before = JSON.stringify({ rows: records }, null, fc.sample(fc.nat(4), 1)[0]);
        const row = some % records.length;
        const keys = Object.keys(records[row]!);
        const column = keys[which % keys.length]!;
        const typed =
          typeof records[row]![column] === 'number'
            ? '42'
            : typeof records[row]![column] === 'boolean'
              ? 'false'
              : text;
        const expected = structuredClone(records);
        expected[row]![column] = typeof records[row]![column] === 'string' ? text : (JSON.parse(typed) as number);
        expect(JSON.parse(withCell(before, 'a.json', ['rows', row], column, typed))).toEqual({ rows: expected });
      },
    ),
  );
});
