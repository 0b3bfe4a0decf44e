import { join, relative, resolve } from 'node:path';
import fc from 'fast-check';
import { kindOf, mimeOf, SafePaths } from './index';

test.each([
  ['cabins/red.png', 'cabins/red.png', undefined],
  ['../../etc/passwd', 'etc/passwd', 'it leads upwards'],
  ['/etc/passwd', 'etc/passwd', 'it is absolute'],
  ['C:\\windows\\x.dll', 'C_/windows/x.dll', 'it has characters that file systems refuse'],
  ['a/con.txt', 'a/_con.txt', 'the name is reserved'],
  ['a\u0000b', 'a_b', 'it has characters that file systems refuse'],
  ['dots...', 'dots', 'it ends in a dot or a space'],
  ['..', 'nameless', 'it leads upwards, it has no name'],
])('%j is written as %j', (path, safe, renamed) => {
  expect(new SafePaths().clean(path)).toEqual({ path: safe, renamed });
});

test('names that differ in case alone are kept apart', () => {
  const paths = new SafePaths();
  expect(paths.clean('A/Pic.png').path).toBe('A/Pic.png');
  expect(paths.clean('a/pic.PNG')).toEqual({ path: 'a/pic (2).PNG', renamed: 'another entry has that name' });
});

test('no path leads out of the folder it is put under, and no two are the same', () => {
  const part = fc.oneof(
    fc.constantFrom('..', '.', '', '/', '\\', 'con', ' ', 'A', 'a'),
    fc.string({ unit: 'binary', maxLength: 300 }),
  );
  fc.assert(
    fc.property(fc.array(fc.array(part, { maxLength: 6 }), { maxLength: 8 }), (list) => {
      const paths = new SafePaths();
      const seen = new Set<string>();
      for (const parts of list) {
        const { path } = paths.clean(parts.join('/'));
        const target = resolve('/target', path);
        expect(relative('/target', target).startsWith('..')).toBe(false);
        expect(target).toBe(join('/target', path));
        expect(path.split('/').every((name) => Buffer.byteLength(name) <= 255)).toBe(true);
        expect(seen.has(path.toLowerCase())).toBe(false);
        seen.add(path.toLowerCase());
      }
    }),
  );
});

test('content beats the name', () => {
  const png = Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
  expect(kindOf('sound.wav', png)).toBe('picture');
  expect(kindOf('text.png', Buffer.from('only text'))).toBe('words');
  expect(kindOf('text.png', Uint8Array.of(1, 2, 3, 4, 5, 6, 7, 8))).toBe('bytes');
  expect(kindOf('README', Buffer.from('only text'))).toBe('words');
  expect(kindOf('scripts/main.lua')).toBe('words');
  expect(kindOf('text.png')).toBe('picture');
  // Extensions that also mean a language, or a text about a mod.
  expect([kindOf('menu.it'), kindOf('my.mod')]).toEqual(['bytes', 'bytes']);
  expect([
    kindOf('menu.it', Buffer.from('Attenzione alle porte')),
    kindOf('my.mod', Buffer.from('name = "x"')),
  ]).toEqual(['words', 'words']);
  expect(kindOf('tune', Buffer.from('IMPM and more'))).toBe('sound');
  expect(kindOf('tune.mod', Buffer.alloc(512, 1))).toBe('sound');
  // What a browser would run is served as text.
  expect(mimeOf('page.html', Buffer.from('<script>'))).toBe('text/plain');
});

test('endings that several programs use are told by what the bytes are', () => {
  expect(kindOf('level.stl', Buffer.from('(level\n  (version 3)\n  (name "Upper Station"))'))).toBe('words');
  expect(kindOf('cabin.stl', Buffer.from('solid cabin\n facet normal 0 0 1'))).toBe('mesh');
  expect(kindOf('cabin.stl', Buffer.alloc(200, 3))).toBe('mesh');
  expect(kindOf('cabin.obj', Buffer.from('# a cabin\nv 0 0 1\nf 1 2 3\n'))).toBe('mesh');
  expect(kindOf('state.obj', Buffer.from('Ticket machine, out of order'))).toBe('words');
  const svg = '<?xml version="1.0"?>\n<!-- sign -->\n<svg xmlns="http://www.w3.org/2000/svg" width="2" height="1"/>';
  expect([kindOf('sign.svg', Buffer.from(svg)), mimeOf('sign.svg', Buffer.from(svg))]).toEqual([
    'picture',
    'text/plain',
  ]);
  expect(kindOf('sign.svg', Buffer.from('no drawing at all'))).toBe('words');
});
