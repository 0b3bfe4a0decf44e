import fc from 'fast-check';
import { KINDS, type Kind } from '../game';
import { Catalogue, type CatalogueQuery } from './catalogue';
import { ColumnsBuilder, DELETED, NAMED, WINS } from './columns';
import { setName } from './matching';
import { compileGlob, fitsGlob } from './glob';
import { parseSearch } from './search-line';
import { rowsByValue } from './sorting';

interface Row {
  readonly path: string;
  readonly archive?: number;
  readonly size?: number;
  readonly kind?: Kind;
  readonly flags?: number;
  readonly tag?: string;
}

function catalogue(rows: readonly Row[]): Catalogue {
  const builder = new ColumnsBuilder();
  const sorted = [...rows].sort((a, b) => Buffer.compare(Buffer.from(a.path), Buffer.from(b.path)));
  for (const [n, { path, archive = 1, size = 10, kind = 'bytes', flags = WINS | NAMED, tag = '' }] of sorted.entries())
    builder.add({ path: Buffer.from(path), archive, n, size, stored: size / 2, kind, flags, method: '1', tag });
  return new Catalogue(
    builder.build(),
    new Map([
      [2, 'patch.hold'],
      [1, 'core.hold'],
    ]),
  );
}

const ask = (more: Partial<CatalogueQuery> = {}): CatalogueQuery => ({
  search: '',
  folder: '',
  sort: 'path',
  order: 'up',
  sets: {},
  ...more,
});
const pathsOf = (of: Catalogue, more: Partial<CatalogueQuery> = {}) =>
  of.page(ask(more), 0, 1000).rows.map(({ path }) => path);

const SOME = catalogue([
  { path: 'cabins/red_door.png', kind: 'picture', size: 70_000 },
  { path: 'cabins/snow/Red Door.png', kind: 'picture', size: 300 },
  { path: 'cabins-old/door.wav', kind: 'sound', size: 5, archive: 2 },
  { path: 'letters/ÄRGER.txt', kind: 'words', archive: 2 },
  { path: 'letters/gone.txt', kind: 'words', flags: DELETED | NAMED, archive: 2 },
  { path: 'nameless/pictures/00ff', kind: 'picture', flags: WINS },
]);

test.each<[search: string, paths: string[]]>([
  ['door', ['cabins-old/door.wav', 'cabins/red_door.png', 'cabins/snow/Red Door.png']],
  ['DOOR cabins/', ['cabins/red_door.png', 'cabins/snow/Red Door.png']],
  ['"red door"', ['cabins/snow/Red Door.png']],
  ['door -snow kind:pic', ['cabins/red_door.png']],
  ['-door', ['letters/ÄRGER.txt', 'nameless/pictures/00ff']],
  ['ärger', ['letters/ÄRGER.txt']],
  ['?rger.txt', ['letters/ÄRGER.txt']],
  ['letters/?rger.txt', ['letters/ÄRGER.txt']],
  ['*.png', ['cabins/red_door.png', 'cabins/snow/Red Door.png']],
  ['cabins/*/red*', ['cabins/snow/Red Door.png']],
  ['size:>64k', ['cabins/red_door.png']],
  ['size:<=5', ['cabins-old/door.wav']],
  ['archive:patch', ['cabins-old/door.wav', 'letters/ÄRGER.txt']],
  ['-archive:patch kind:words', []],
  ['nameless:', ['nameless/pictures/00ff']],
  ['label:bell', ['cabins/red_door.png']],
  ['door -label:bell kind:picture', ['cabins/snow/Red Door.png']],
])('%s finds what it says', (search, paths) => {
  expect(pathsOf(SOME, { search, sets: { [setName('label', 'bell')]: ['cabins/red_door.png'] } })).toEqual(paths);
});

test('a word that would begin in one path and end in the next is in neither', () => {
  expect(pathsOf(catalogue([{ path: 'xab' }, { path: 'xcd' }]), { search: 'bx' })).toEqual([]);
});

test('one archive alone shows what it has, whoever wins', () => {
  const { rows, archives } = SOME.page(ask({ archive: 2 }), 0, 10);
  expect(rows.map(({ path, role }) => [path, role])).toContainEqual(['letters/gone.txt', 'removes']);
  expect(archives).toEqual([{ id: 2, path: 'patch.hold', count: 3 }]);
});

test('folders are counted, and one does not take its neighbour for its own', () => {
  expect(SOME.folders('')).toEqual([
    { name: 'cabins-old', path: 'cabins-old', count: 1, folders: false },
    { name: 'cabins', path: 'cabins', count: 2, folders: true },
    { name: 'letters', path: 'letters', count: 1, folders: false },
    { name: 'nameless', path: 'nameless', count: 1, folders: true },
  ]);
  expect(SOME.folders('cabins', 1)).toEqual([{ name: 'snow', path: 'cabins/snow', count: 1, folders: false }]);
  expect(pathsOf(SOME, { folder: 'cabins' })).toEqual(['cabins/red_door.png', 'cabins/snow/Red Door.png']);
});

test('by size and by archive, up and down', () => {
  expect(pathsOf(SOME, { sort: 'size', search: 'door' })[0]).toBe('cabins-old/door.wav');
  expect(pathsOf(SOME, { sort: 'size', order: 'down', search: 'door' })[0]).toBe('cabins/red_door.png');
  // In load order, and not by number.
  expect(pathsOf(SOME, { sort: 'archive' })[0]).toBe('cabins-old/door.wav');
});

test('the place of an entry, and the paths at places', () => {
  const query = ask({ search: 'door' });
  const { rows } = SOME.page(query, 0, 10);
  expect(SOME.placeOf(query, rows[2]!.archive, rows[2]!.n)).toBe(2);
  expect(SOME.placeOf(query, 9, 9)).toBe(-1);
  const ranges = [
    [0, 1],
    [2, 99],
  ] as const;
  expect(SOME.paths(query, ranges)).toEqual(['cabins-old/door.wav', 'cabins/snow/Red Door.png']);
});

test('what a game is made of', () => {
  const twice = catalogue([
    { path: 'a/x.png', kind: 'picture', size: 100, tag: 'same' },
    { path: 'a/b/y.png', kind: 'picture', size: 100, tag: 'same' },
    { path: 'z.wav', kind: 'sound', size: 30, tag: 'other' },
  ]);
  const overview = twice.overview(ask());
  expect(overview.total).toMatchObject({ count: 3, bytes: 230, stored: 115 });
  expect(overview.kinds.map(({ kind, count }) => [kind, count])).toEqual([
    ['picture', 2],
    ['sound', 1],
  ]);
  expect(overview.folders.map(({ path, bytes, under }) => [path, bytes, under.map((one) => one.path)])).toEqual([
    ['a', 200, ['a/b', 'a']],
    ['', 30, ['']],
  ]);
  expect(overview.duplicateBytes).toBe(100);
  expect(overview.duplicates[0]!.entries.map(({ path }) => path)).toEqual(['a/b/y.png', 'a/x.png']);
  expect(overview.biggest.at(-1)!.path).toBe('z.wav');
});

const name = fc.string({ unit: fc.constantFrom('a', 'b', 'É', '.', '/'), minLength: 1, maxLength: 8 });

test('words and wildcards find what a plain search over the paths finds', () => {
  const search = fc.string({ unit: fc.constantFrom('a', 'b', 'é', '*', '?'), minLength: 1, maxLength: 4 });
  fc.assert(
    fc.property(fc.uniqueArray(name, { maxLength: 60 }), search, fc.boolean(), (paths, text, minus) => {
      const pattern = text.replaceAll('.', '\\.').replaceAll('*', '.*').replaceAll('?', '.');
      const plain = /[*?]/.test(text) ? new RegExp(`^.*${pattern}$`, 'us') : new RegExp(pattern, 'us');
      const wanted = paths.filter((path) => plain.test(path.toLowerCase()) !== minus);
      const found = pathsOf(catalogue(paths.map((path) => ({ path }))), { search: (minus ? '-' : '') + text });
      expect(new Set(found)).toEqual(new Set(wanted));
    }),
    { numRuns: 500 },
  );
});

test('rows are sorted as numbers are, and equal ones stay in order', () => {
  const value = fc.oneof(fc.nat(), fc.integer({ min: 0, max: Number.MAX_SAFE_INTEGER }));
  fc.assert(
    fc.property(fc.array(value), (values) => {
      const wanted = values.map((_, i) => i).sort((a, b) => values[a]! - values[b]! || a - b);
      expect([...rowsByValue(values)]).toEqual(wanted);
    }),
  );
});

test('rows out of order are a defect that is told', () => {
  const builder = new ColumnsBuilder();
  const row = { archive: 1, n: 0, size: 1, stored: 1, kind: KINDS[0], flags: WINS, method: '', tag: '' };
  builder.add({ ...row, path: Buffer.from('b') });
  expect(() => builder.add({ ...row, path: Buffer.from('a') })).toThrow(RangeError);
});

test('a line found among what a shorter line had found is what a search from the start finds', () => {
  const line = fc.string({ unit: fc.constantFrom('a', 'b', '*', '?', ' ', '-', '.', 'é'), maxLength: 9 });
  const listed = fc.record({
    sort: fc.constantFrom('path', 'size') as fc.Arbitrary<'path' | 'size'>,
    order: fc.constantFrom('up', 'down') as fc.Arbitrary<'up' | 'down'>,
  });
  fc.assert(
    fc.property(
      fc.uniqueArray(name, { minLength: 1, maxLength: 60 }),
      fc.array(line, { maxLength: 4 }),
      listed,
      (paths, lines, how) => {
        const rows = paths.map((path, i) => ({ path, size: (i * 7) % 11, flags: i % 5 === 0 ? NAMED : WINS | NAMED }));
        const kept = catalogue(rows);
        for (const typed of lines)
          for (let length = 0; length <= typed.length; length++) {
            const query = ask({ search: typed.slice(0, length), ...how });
            expect(kept.page(query, 0, 100)).toEqual(catalogue(rows).page(query, 0, 100));
          }
      },
    ),
    { numRuns: 60 },
  );
});

test.each(['e', '-e', '7', '-7', '77', '-77', '9.d', '-e 7', 'f1 -33 7', '-01 -2'])('%s among thousands', (search) => {
  // More than the sample after which it is clear how common a text is.
  const paths = Array.from({ length: 5000 }, (_, i) => `f${i % 13}/${i % 3 === 0 ? 'e' : 'x'}${i}.dat`).sort();
  const fits = search
    .split(' ')
    .map((word) => (path: string) => path.includes(word.replace('-', '')) !== word.startsWith('-'));
  const { total, rows } = catalogue(paths.map((path) => ({ path }))).page(ask({ search }), 0, 5000);
  expect(total).toBe(rows.length);
  expect(rows.map(({ path }) => path)).toEqual(paths.filter((path) => fits.every((fit) => fit(path))));
});

test('wildcards without a letter are asked of the few that are left', () => {
  const many = Array.from({ length: 200 }, (_, i) => ({ path: `f/${String(i).padStart(3, '0')}` }));
  const of = catalogue([...many, { path: 'f/xyz', kind: 'sound' }]);
  expect(pathsOf(of, { search: 'kind:sound *' })).toEqual(['f/xyz']);
  expect(pathsOf(of, { search: 'kind:sound -*' })).toEqual([]);
});

test('a pattern of many stars ends soon', () => {
  const text = Buffer.from('a'.repeat(4000));
  expect(fitsGlob(text, 0, text.length, compileGlob(`${'*a'.repeat(40)}b`))).toBe(false);
});

test.each(['kind:sausage', 'size:huge', 'size:>5xb'])('%s is refused, saying what there is', (text) => {
  expect(() => parseSearch(text)).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'invalid-request' }) }),
  );
});

test.each(['kind:', 'size:', 'size:>', '"', '-', '', 'archive:'])('%j, still being typed, is no term yet', (text) => {
  expect(parseSearch(text)).toEqual([]);
});

test.each([
  ['kind:sounds', 'sound'],
  ['kind:image', 'picture'],
  ['kind:pic', 'picture'],
])('%s is the kind %s', (text, kind) => {
  expect(parseSearch(text)).toEqual([{ is: 'kind', kind, minus: false }]);
});
