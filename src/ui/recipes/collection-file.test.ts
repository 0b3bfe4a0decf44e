import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { collectionManifest } from '../../core/game/recipe-collection';
import { readCollection, writeCollection } from './collection-file';

const folder = mkdtempSync(join(tmpdir(), 'zero-latch-collection-'));
afterAll(() => rmSync(folder, { recursive: true }));

const recipes = [
  { id: 'small-box', revision: 2, text: 'recipe: small-box\nrevision: 2\n' },
  { id: 'painting', revision: 1, text: 'recipe: painting\nrevision: 1\n# Größe\n' },
];

/** A ZIP by another program. */
function zipped(name: string, files: Readonly<Record<string, string>>): Blob {
  const inside = mkdtempSync(join(folder, 'in-'));
  for (const [path, text] of Object.entries(files)) writeFileSync(join(inside, path), text);
  execFileSync('7z', ['a', '-tzip', join(folder, name), '.'], { cwd: inside });
  return new Blob([readFileSync(join(folder, name))]);
}

test('a collection is a ZIP that another program reads, with a manifest, and comes back', async () => {
  const made = await writeCollection('Gondola Post', { recipes });
  const path = join(folder, 'made.zip');
  writeFileSync(path, Buffer.from(await made.arrayBuffer()));
  const inside = (name: string) => execFileSync('7z', ['e', '-so', path, name], { encoding: 'utf8' });
  expect(collectionManifest.parse(JSON.parse(inside('collection.json')))).toMatchObject({
    title: 'Gondola Post',
    recipes: [{ file: 'small-box.yaml', id: 'small-box', revision: 2 }, { id: 'painting' }],
  });
  expect(inside('painting.yaml')).toBe(recipes[1]!.text);
  expect(await readCollection(made)).toEqual(recipes.map(({ text }) => text));
});

test('a ZIP without a manifest gives every recipe in it', async () => {
  const file = zipped('plain.zip', { 'a.yaml': 'recipe: a', 'b.yml': 'recipe: b', 'read.txt': 'no recipe' });
  expect((await readCollection(file)).sort()).toEqual(['recipe: a', 'recipe: b']);
});

test.each([
  ['no ZIP', () => new Blob(['only text']), /not a whole ZIP/],
  ['nothing in it', () => zipped('none.zip', { 'read.txt': 'no recipe' }), /no recipes in this file/],
  [
    'a recipe that is missing',
    () =>
      zipped('missing.zip', {
        'collection.json': JSON.stringify({
          ...{ format: 'zero-latch recipes', version: 1, title: 'x' },
          recipes: [{ file: 'gone.yaml', id: 'gone', revision: 1 }],
        }),
      }),
    /names gone\.yaml, which is not in it/,
  ],
  ['a manifest that is no JSON', () => zipped('half.zip', { 'collection.json': '{' }), /collection\.json is not JSON/],
  ['a manifest of something else', () => zipped('other.zip', { 'collection.json': '{"format":"mine"}' }), /not a manifest of recipes: format/],
])('%s is reported', async (_, file, message) => {
  await expect(readCollection(file())).rejects.toThrow(message);
});
