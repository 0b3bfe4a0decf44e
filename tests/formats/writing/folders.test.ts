/** Where new entries go in formats with folders: rows in a table, or chunks in chunks. */
import { compileRecipe, planNew, volumeBytes } from '../../../src/core/recipe';
import { bufferSource, collect, memoryScratch } from '../../../src/core/bytes';
import { contentsOf, edited, recipeOf } from './edit-file';

describe('a table of folders without a row for the top', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: FOLD }
shapes:
  head: [{ field: magic, as: ascii(4), must: FOLD }, { field: dirs, as: u8, is: count(folders) }, { field: files, as: u8, is: count(entries) }]
  dir: [{ field: name, as: ascii(2), is: folder.name }, { field: parent, as: i8, is: folder.parent }]
  file: [{ field: folder, as: i8, is: entry.folder-index }, { field: name, as: ascii(2), is: entry.name }, { field: size, as: u8, is: entry.size }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: dirs, at: 6, holds: 'dir[head.dirs]' }
  - { region: files, at: 6 + length(dirs), holds: 'file[head.files]' }
  - { region: data, holds: entries }
presents: archive
entries:
  each: file in files
  path: join(folder.path, file.name)
  at: 'if(entry.index == 0, start(data), previous.end)'
  stored: file.size
  size: file.size
  folder: file.folder
  folders: { each: dir in dirs, name: dir.name, parent: dir.parent }
`);
  const file = 'FOLD\x01\x02aa\xff\x00ff\x01\xffgg\x01XY';

  test('is read with paths of the names alone at the top', async () => {
    expect(await contentsOf(recipe, file)).toEqual({ 'aa/ff': 'X', gg: 'Y' });
  });
  test('takes new entries at the top, and new folders there', async () => {
    const made = await edited(recipe, file, { add: { hh: 'Z', 'bb/cc/ii': 'W' } });
    expect(made.toString('latin1')).toBe('FOLD\x03\x04aa\xffbb\xffcc\x01\x00ff\x01\xffgg\x01\xffhh\x01\x02ii\x01XYZW');
  });
  test('is made from nothing with a row for the top, unless the recipe says that there is none', async () => {
    const fresh = async (text: string) => {
      const { volumes } = await planNew(compileRecipe(text), [{ path: 'hh', bytes: bufferSource(Buffer.from('Z')) }], {
        scratch: memoryScratch(),
      });
      return Buffer.from(await collect(volumeBytes(volumes[0]!))).toString('latin1');
    };
    const none = recipe.replace('parent: dir.parent }', 'parent: dir.parent, top: none }');
    expect(await fresh(none)).toBe('FOLD\x00\x01\xffhh\x01Z');
    // A formula that gives a number below zero says so too.
    const negated = recipe.replace('folder: file.folder', "folder: 'if(file.folder == 99, -1, file.folder)'");
    expect(await fresh(negated)).toBe('FOLD\x00\x01\xffhh\x01Z');
    expect(await fresh(recipe)).toBe('FOLD\x01\x01\0\0\xff\x00hh\x01Z');
  });
});

describe('chunks in chunks', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: TREE }
shapes:
  top: [{ field: magic, as: ascii(4), must: TREE }, { field: chunks, as: 'chunk[to end]' }]
  chunk:
    - { field: tag, as: ascii(1), new: 'if(entry.name == nothing, "D", "F")' }
    - { field: size, as: u8, is: length(body) }
    - { field: body, by: tag, size: size, as: { D: folder, F: file } }
  folder: [{ field: name, as: ascii(1), is: folder.name }, { field: chunks, as: 'chunk[to end]' }]
  file: [{ field: name, as: ascii(1), is: entry.name }, { field: data, as: data(rest) }]
regions: [{ region: all, at: 0, holds: top }]
presents: archive
entries:
  each: file in all
  path: join(folder.path, file.name)
  data: file.data
  folders: { each: folder in all, name: folder.name }
`);

  test('say what a new chunk is made for', async () => {
    const made = await edited(recipe, 'TREEF\x02aX', { add: { 'd/b': 'Y' } });
    expect(made.toString('latin1')).toBe('TREEF\x02aXD\x05dF\x02bY');
  });
  test('take a file into a folder of nothing but folders', async () => {
    const made = await edited(recipe, 'TREEF\x02aXF\x02cXD\x08dD\x05eF\x02bY', { add: { 'd/f': 'Z' } });
    expect(await contentsOf(recipe, made)).toEqual({ a: 'X', c: 'X', 'd/e/b': 'Y', 'd/f': 'Z' });
  });
  test('take a file to the top, where all lie in folders', async () => {
    const made = await edited(recipe, 'TREED\x09dF\x02bYF\x02cY', { add: { f: 'Z' } });
    expect(await contentsOf(recipe, made)).toEqual({ 'd/b': 'Y', 'd/c': 'Y', f: 'Z' });
  });
});
