import fc from 'fast-check';
import { matchByNumber, matchByPath, MAX_LABEL, readLabels, speaksOfNumbers, writeLabels } from './label-table';

test('what is written is read again, whatever stands in it', () => {
  const text = fc.string({ minLength: 1, maxLength: 30 }).filter((one) => one.trim() === one && !one.startsWith('#'));
  fc.assert(
    fc.property(fc.array(fc.record({ path: text, text }), { minLength: 1 }), (labels) => {
      const rows = readLabels(writeLabels(labels));
      expect(rows.map(({ of, text: label }) => ({ path: of, text: label }))).toEqual(labels);
    }),
  );
});

test.each([
  ['commas and a heading', 'path,label\na/b.wav,doors\n'],
  ['semicolons', 'a/b.wav;doors\n'],
  ['tabs and a mark of the encoding', '\ufeffa/b.wav\tdoors\r\n'],
  ['a comment', '# of mine\na/b.wav,doors'],
])('a table with %s', (_, text) => {
  expect(readLabels(text)).toEqual([expect.objectContaining({ of: 'a/b.wav', text: 'doors' })]);
});

test.each(['', 'no label here', 'a,"b'])('%j is no table', (text) => {
  expect(() => readLabels(text)).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'invalid-request' }) }),
  );
});

test('what is too long is told with its line, and nothing is cut', () => {
  expect(() => readLabels(`a,short\nb,${'x'.repeat(MAX_LABEL + 1)}\n`)).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'invalid-request', line: 2 }) }),
  );
  expect(() => readLabels('a,b\n'.repeat(200_001))).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'limit-reached' }) }),
  );
});

const rowsOf = (text: string) => readLabels(text);

test('a path, a name, and either without its ending are found; a name that stands twice is not', () => {
  const paths = ['a/doors.wav', 'a/bell.wav', 'b/bell.wav'];
  const { labels, unmatched } = matchByPath(rowsOf('DOORS,one\na/bell,two\nbell.wav,three\n'), paths);
  expect(labels).toEqual([
    { path: 'a/doors.wav', text: 'one' },
    { path: 'a/bell.wav', text: 'two' },
  ]);
  expect(unmatched.map(({ of }) => of)).toEqual(['bell.wav']);
});

test('numbers count as the names do, or one ahead', () => {
  const paths = ['cues/cue_007.wav', 'cues/cue_008.wav', 'cues/cue_009.wav'];
  const rows = rowsOf('8,doors\n10,crane\n');
  expect(speaksOfNumbers(rows)).toBe(true);
  expect(matchByNumber(rows, paths, 0).labels).toEqual([{ path: 'cues/cue_008.wav', text: 'doors' }]);
  expect(matchByNumber(rows, paths, 1).labels).toEqual([
    { path: 'cues/cue_007.wav', text: 'doors' },
    { path: 'cues/cue_009.wav', text: 'crane' },
  ]);
});

test('names without numbers count by their places', () => {
  expect(matchByNumber(rowsOf('0,first\n1,second'), ['x/a.wav', 'x/b.wav'], 0).labels.map(({ path }) => path)).toEqual([
    'x/a.wav',
    'x/b.wav',
  ]);
});
