/** Counts of a part: buckets of a hash table, and trees that count all below. */
import { memoryScratch } from '../../../src/core/bytes';
import { hashOf } from '../../../src/core/codecs';
import { isProven, prove } from '../../../src/core/recipe';
import { contentsOf, edited, openFiles, recipeOf } from './edit-file';

const proven = async (recipe: string, file: string | Buffer) =>
  isProven(await prove(await openFiles(recipe, file), { scratch: memoryScratch() }));

test('buckets that tell where their rows begin and how many these are', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: BUCK }
shapes:
  head: [{ field: magic, as: ascii(4), must: BUCK }, { field: count, as: u8, is: count(entries) }, { field: buckets, as: 'bucket[4]' }]
  bucket: [{ field: first, as: u8, is: 'count(rows, item.hash % 4 < own-index)' }, { field: count, as: u8, is: 'count(rows, item.hash % 4 == own-index)' }]
  row: [{ field: hash, as: u32, is: fnv1a-32(entry.path) }, { field: name, as: ascii(3), is: entry.path }, { field: size, as: u8, is: entry.size }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: rows, at: length(head), holds: 'row[head.count]', sort: hash % 4 }
  - { region: data, holds: entries }
presents: archive
entries: { each: row in rows, path: row.name, at: 'if(entry.index == 0, start(rows) + length(rows), previous.end)', stored: row.size, size: row.size }
`);
  const bucketOf = (name: string) => Number(hashOf('fnv1a-32', Buffer.from(name))) % 4;
  const fileOf = (contents: Record<string, string>) => {
    const names = Object.keys(contents).sort((a, b) => bucketOf(a) - bucketOf(b));
    const buckets = [0, 1, 2, 3].flatMap((bucket) => [
      names.filter((name) => bucketOf(name) < bucket).length,
      names.filter((name) => bucketOf(name) === bucket).length,
    ]);
    const rows = names.map((name) => {
      const row = Buffer.alloc(8);
      row.writeUInt32LE(Number(hashOf('fnv1a-32', Buffer.from(name))));
      row.write(name, 4);
      row[7] = contents[name]!.length;
      return row;
    });
    const head = Buffer.from([...Buffer.from('BUCK'), names.length, ...buckets]);
    return Buffer.concat([head, ...rows, Buffer.from(names.map((name) => contents[name]).join(''))]);
  };
  const file = fileOf({ fox: 'F', owl: 'O', yak: 'Y', hen: 'H', emu: 'E' });
  expect(await proven(recipe, file)).toBe(true);
  const made = await edited(recipe, file, { add: { pug: 'PP', ant: 'A' }, remove: ['yak'] });
  expect(made).toEqual(fileOf({ fox: 'F', owl: 'O', hen: 'H', emu: 'E', pug: 'PP', ant: 'A' }));
});

test('a tree whose folders count all entries below them', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: TREE }
shapes:
  head: [{ field: magic, as: ascii(4), must: TREE }, { field: root, as: node }]
  node:
    - { field: name, as: text(u8, ascii), is: folder.name }
    - { field: all, as: u8, is: folder.all }
    - { field: files, as: u8, is: folder.count }
    - { field: nodes, as: u8, is: folder.folders }
    - { field: list, as: 'file[files]' }
    - { field: below, as: 'node[nodes]' }
  file: [{ field: name, as: text(u8, ascii), is: entry.name }, { field: size, as: u8, is: entry.size }, { field: body, as: data(size) }]
regions: [{ region: head, at: 0, holds: head }]
presents: archive
entries: { each: file in head, path: 'join(folder.path, file.name)', folders: { each: node in head, name: node.name } }
`);
  interface Node {
    readonly files?: Record<string, string>;
    readonly folders?: Record<string, Node>;
  }
  const text = (value: string) => String.fromCharCode(value.length) + value;
  const all = ({ files = {}, folders = {} }: Node): number =>
    Object.keys(files).length + Object.values(folders).reduce((sum, folder) => sum + all(folder), 0);
  const nodeOf = (name: string, node: Node): string => {
    const { files = {}, folders = {} } = node;
    const counts = String.fromCharCode(all(node), Object.keys(files).length, Object.keys(folders).length);
    const list = Object.entries(files).map(([file, body]) => text(file) + text(body));
    return (
      text(name) +
      counts +
      list.join('') +
      Object.entries(folders)
        .map(([own, below]) => nodeOf(own, below))
        .join('')
    );
  };
  const file = `TREE${nodeOf('', { files: { top: 'T' }, folders: { a: { files: { x: 'X' }, folders: { b: { files: { y: 'Y' } } } } } })}`;
  expect(await contentsOf(recipe, file)).toEqual({ top: 'T', 'a/x': 'X', 'a/b/y': 'Y' });
  expect(await proven(recipe, file)).toBe(true);
  const made = await edited(recipe, file, { add: { 'a/b/z': 'Z', 'c/d': 'D' }, remove: ['a/x'] });
  expect(made.toString('latin1')).toBe(
    `TREE${nodeOf('', {
      files: { top: 'T' },
      folders: { a: { folders: { b: { files: { y: 'Y', z: 'Z' } } } }, c: { files: { d: 'D' } } },
    })}`,
  );
});
