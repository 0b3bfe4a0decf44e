import { SafePaths } from './safe-paths';

const cleaned = (...paths: string[]) => {
  const safe = new SafePaths();
  return paths.map((path) => safe.clean(path).path);
};

test.each([
  ['what leads upwards stays below', '../../a.txt', 'a.txt'],
  ['an absolute path begins below', '/etc/passwd', 'etc/passwd'],
  ['a drive is no drive', 'C:\\a.txt', 'C_/a.txt'],
  ['a device gets another name', 'aux.txt', '_aux.txt'],
  ['control characters go', 'a\u0000b\n.txt', 'a_b_.txt'],
  ['nothing at all has a name', '', 'nameless'],
  ['a path that ends in its folder gets a name', 'Maps/', 'Maps/nameless'],
  ['a path that ends above its folder gets a name', 'Maps/..', 'Maps/nameless'],
])('%s', (_, path, expected) => {
  const { path: made, renamed } = new SafePaths().clean(path);
  expect(made).toBe(expected);
  expect(renamed).toBeDefined();
});

test('what is fit stays as it is', () => {
  expect(new SafePaths().clean('Maps/level 01.map')).toEqual({ path: 'Maps/level 01.map', renamed: undefined });
});

test('paths that differ in letter case alone are kept apart', () => {
  expect(cleaned('a/Fox.txt', 'A/fox.txt')).toEqual(['a/Fox.txt', 'A/fox (2).txt']);
});

test('a file and a folder of one name are kept apart, whichever comes first', () => {
  expect(cleaned('a', 'a/b', 'a/c')).toEqual(['a', 'a (2)/b', 'a (2)/c']);
  expect(cleaned('a/b', 'a', 'a/c')).toEqual(['a/b', 'a (2)', 'a/c']);
});

test('where all paths are known, the file gives way and every folder keeps its path', () => {
  const all = ['a', 'a/b', 'a/c'];
  const safe = new SafePaths(all);
  expect(all.map((path) => safe.clean(path).path)).toEqual(['a (2)', 'a/b', 'a/c']);
});

test('folders keep their spelling', () => {
  expect(cleaned('Maps/a', 'maps/b')).toEqual(['Maps/a', 'maps/b']);
});

test('a name is never longer than a file system takes', () => {
  const [made] = cleaned(`${'é'.repeat(300)}.txt`);
  expect(Buffer.byteLength(made!)).toBeLessThanOrEqual(240);
  expect(made).toMatch(/\.txt$/);
});
