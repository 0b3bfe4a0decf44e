/** Rows that come and go with all that belongs to them. */
import { contentsOf, edited, recipeOf, refused } from './edit-file';

test('a row shape in two lists goes into that of the last entry, and both counts agree', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: PAIR }
shapes:
  head: [{ field: magic, as: ascii(4), must: PAIR }, { field: old, as: u8, is: count(lists.older) }, { field: young, as: u8, is: count(lists.younger) }]
  lists: [{ field: older, as: 'row[head.old]' }, { field: younger, as: 'row[head.young]' }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: size, as: u8, is: entry.size }, { field: body, as: data(size) }]
regions: [{ region: head, at: 0, holds: head }, { region: lists, at: 6, holds: lists }]
presents: archive
entries: { each: row in lists, path: row.name }
`);
  const made = await edited(recipe, 'PAIR\x01\x01fox\x03FFFowl\x02OO', { add: { hen: 'HH' }, remove: ['fox'] });
  expect(made.toString('latin1')).toBe('PAIR\x00\x02owl\x02OOhen\x02HH');
});

describe('folders and files as items of one list of chunks', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: CHNK }
shapes:
  file: [{ field: magic, as: ascii(4), must: CHNK }, { field: size, as: u16, is: length(root) }, { field: root, as: group, size: size }]
  group: [{ field: name, as: 'text(u8, ascii)', is: folder.name }, { field: chunks, as: 'chunk[to end]' }]
  chunk:
    - { field: tag, as: ascii(1), new: 'if(entry.name == nothing, "D", "F")' }
    - { field: size, as: u16, is: length(body) }
    - { field: body, by: tag, as: { D: group, F: leaf, else: bytes(size) }, size: size }
  leaf: [{ field: name, as: 'text(u8, ascii)', is: entry.name }, { field: data, as: data(rest) }]
regions: [{ region: all, at: 0, holds: file }]
presents: archive
entries:
  each: chunk in all
  only: chunk.tag == "F"
  path: 'join(folder.path, chunk.body.name)'
  data: chunk.body.data
  folders: { each: group in all, name: group.name }
`);
  // A stranger in the top folder, a file in a folder.
  const inner = '\x04birdF\x06\0\x03owlOO';
  const file = `CHNK\x17\0\0X\x02\0??D${String.fromCharCode(inner.length)}\0${inner}`;

  test('a file goes into its folder', async () => {
    const made = await edited(recipe, file, { add: { 'bird/hen': 'HH', fox: 'F' } });
    expect(await contentsOf(recipe, made)).toEqual({ 'bird/owl': 'OO', 'bird/hen': 'HH', fox: 'F' });
    expect(made.toString('latin1')).toContain('X\x02\0??');
  });
  test('a folder that is not there is made as a chunk of its own, at any depth', async () => {
    const made = await edited(recipe, file, { add: { 'bird/water/duck': 'DD', 'mammal/fox': 'FF' } });
    expect(await contentsOf(recipe, made)).toEqual({
      'bird/owl': 'OO',
      'bird/water/duck': 'DD',
      'mammal/fox': 'FF',
    });
  });
  test('a folder goes with its last file, and strangers stay', async () => {
    const made = await edited(recipe, file, { remove: ['bird/owl'] });
    expect(made.toString('latin1')).toBe('CHNK\x06\0\0X\x02\0??');
  });
});

describe('a name in the chunk before', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: STRM }
shapes:
  file: [{ field: magic, as: ascii(4), must: STRM }, { field: chunks, as: 'chunk[to end]' }]
  chunk:
    - { field: tag, as: ascii(1), new: '"F"' }
    - { field: size, as: u8, is: length(body) }
    - { field: body, by: tag, as: { N: 'text(size, ascii)', F: data(size), else: bytes(size) } }
regions: [{ region: all, at: 0, holds: file }]
presents: archive
entries:
  each: chunk in all.chunks
  only: chunk.tag == "F"
  path: before(chunk, chunk.tag == "N").body
  data: chunk.body
`);
  const file = 'STRMN\x03foxF\x03FFFX\x02??N\x03owlX\x01!F\x02OO';

  test('comes with a new entry', async () => {
    const made = await edited(recipe, file, { add: { hen: 'HH' } });
    expect(made.toString('latin1')).toBe(`${file}N\x03henF\x02HH`);
  });
  test('goes with a removed one, and what lies between stays', async () => {
    const made = await edited(recipe, file, { remove: ['owl'] });
    expect(made.toString('latin1')).toBe('STRMN\x03foxF\x03FFFX\x02??X\x01!');
  });
  test('cannot be made where there is none to follow', async () => {
    expect(await refused(recipe, 'STRMX\x01!', { add: { hen: 'HH' } })).toMatchObject({ code: 'cannot-add', line: 18 });
  });
});

test('folders with numbers are counted anew when one goes', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: DIRS }
shapes:
  head: [{ field: magic, as: ascii(4), must: DIRS }, { field: dirs, as: u8, is: count(folders) }, { field: files, as: u8, is: count(entries) }]
  dir: [{ field: parent, as: i8, is: folder.parent }, { field: name, as: ascii(3), is: folder.name }]
  file: [{ field: dir, as: u8, is: entry.folder-index }, { field: name, as: ascii(3), is: entry.name }, { field: size, as: u8, is: entry.size }, { field: body, as: data(size) }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: dirs, at: 6, holds: 'dir[head.dirs]' }
  - { region: files, at: 6 + head.dirs * 4, holds: 'file[head.files]' }
presents: archive
entries: { each: file in files, path: 'join(folder.path, file.name)', folder: file.dir, folders: { each: dir in dirs, name: dir.name, parent: dir.parent } }
`);
  const file = 'DIRS\x02\x02\xffwet\xffdry\x00eel\x01E\x01fox\x01F';
  const made = await edited(recipe, file, { remove: ['wet/eel'] });
  expect(made.toString('latin1')).toBe('DIRS\x01\x01\xffdry\x00fox\x01F');
});
