import fc from 'fast-check';
import type { EntryTable } from './entry-table';
import { uniquePaths } from './unique-paths';

const table = (paths: readonly string[]) =>
  ({ count: paths.length, path: (entry: number) => paths[entry]! }) as unknown as EntryTable;
const all = (paths: readonly string[]) => paths.map((_, i) => uniquePaths(table(paths))(i));

test('the second of a name is numbered before its extension, around names that are taken', () => {
  expect(all(['a/b.txt', 'a/b.txt', 'a/b~2.txt', 'a/b.txt', '.hidden', '.hidden'])).toEqual([
    'a/b.txt',
    'a/b~2.txt',
    'a/b~2~2.txt',
    'a/b~3.txt',
    '.hidden',
    '.hidden~2',
  ]);
});

test('no two are ever the same, and names that stand alone stay as they are', () => {
  const name = fc.stringMatching(/^[ab]{1,2}(~2)?(\.x)?$/);
  fc.assert(
    fc.property(fc.array(name, { maxLength: 30 }), (paths) => {
      const made = all(paths);
      expect(new Set(made).size).toBe(paths.length);
      if (new Set(paths).size === paths.length) expect(made).toEqual(paths);
    }),
  );
});
