/** A folder of a hundred files finds its places; what is not sure is asked, what does not fit is said, nothing is lost. */
import sharp from 'sharp';
import { gameKey } from '../../demo/make-game';
import {
  addIncomingFile,
  addInstead,
  countNumbers,
  editChange,
  listIncomingFiles,
  listChanges,
  newDrop,
  numberedFolders,
  skipFile,
  placeIncomingFile,
  startBringIn,
  undoDrop,
  unfinishedImports,
} from '../../src/server/changes';
import { ChangeModel } from '../../src/server/database';
import { listEntries } from '../../src/server/entries';
import { entryBytes, findWinner } from '../../src/server/content';
import { addKey } from '../../src/server/games';
import { setLabels } from '../../src/server/labels';
import { startRun, stopRun } from '../../src/server/runs';
import { startBuild } from '../../src/server/put-back';
import { entryQuery } from '../../src/server/shapes';
import { ended, once, openedGame, settled, withWorker } from './support';
import { wavOfEntry } from './subjects';

withWorker();

let id: number;
beforeAll(async () => {
  ({ id } = await openedGame('drops'));
  await addKey(id, gameKey('1.4.1', 'voices').toString('hex'));
  await settled(id);
});

/** Drops files, each with its folders, and lets the run end. */
async function dropped(files: Readonly<Record<string, Uint8Array>>, path?: string) {
  const { id: drop } = await newDrop(id);
  for (const [name, bytes] of Object.entries(files))
    await addIncomingFile(id, drop, { name, path, bytes: once(bytes) });
  const run = await ended((await startBringIn(id, drop)).id);
  expect(run.state).toBe('done');
  return { drop, result: run.result as Record<string, unknown> };
}

const flat = (background: string, side = 32) =>
  sharp({ create: { width: side, height: side, channels: 4, background } })
    .png()
    .toBuffer();
const waiting = async (drop: number) => (await listIncomingFiles(id)).rows.filter((row) => row.drop === drop);
const bytesOf = async (path: string) => {
  const { archive, n } = await findWinner(id, path);
  return (await entryBytes(archive, n)).bytes;
};

test('a hundred files in folders: those that changed are taken, the same are passed over, the rest is said', async () => {
  const { rows } = await listEntries(
    id,
    entryQuery.parse({ search: 'archive:core.hold kind:picture .png', limit: '96' }),
  );
  const files: Record<string, Uint8Array> = {};
  for (const [i, { path }] of rows.entries())
    files[`edited/${path}`] = i % 2 === 0 ? await bytesOf(path) : await flat('#306090', 16 + (i % 5));
  files['edited/broken.png'] = Buffer.from('a text');
  files['edited/cabins/livery/broken/cabin_01_blue.png'] = Buffer.from('no picture');
  files['edited/models/cabin/cabin_normal.png'] = Buffer.from('a text that calls itself a picture');
  files['edited/models/cabin/cabin_colour.jpg'] = await sharp(await flat('#a05020', 256))
    .jpeg()
    .toBuffer();
  const changed = rows.filter((_, i) => i % 2 === 1).length;
  const { drop, result } = await dropped(files);
  expect(result).toMatchObject({ taken: changed + 1, same: rows.length - changed, left: 3 });
  expect((await waiting(drop)).map(({ name, state, path }) => [name, state, path])).toEqual([
    ['edited/broken.png', 'unmatched', null],
    ['edited/cabins/livery/broken/cabin_01_blue.png', 'ambiguous', null],
    ['edited/models/cabin/cabin_normal.png', 'refused', 'models/cabin/cabin_normal.tex'],
  ]);
  const all = await listChanges(id);
  expect(all).toHaveLength(changed + 1);
  expect(all.every(({ matchedBy, dropCount }) => matchedBy?.code === 'by-path' && dropCount >= changed + 1)).toBe(true);
  expect(all.find(({ path }) => path.endsWith('cabin_colour.tex'))!.fitNotes[0]).toMatchObject({
    code: expect.stringMatching(/^picture-(packed|mips-made)$/),
  });
  expect((await ended((await startBuild(id, 'patch')).id)).result).toMatchObject({ started: true });
  expect((await undoDrop(id, drop)).undone).toBeGreaterThan(changed);
  expect((await listChanges(id)).filter(({ undone }) => !undone)).toEqual([]);
  expect(await skipFile(id, drop)).toEqual({ passed: 3 });
});

test('two files for one entry, and a name that stands for several, are asked about', async () => {
  const { drop } = await dropped({
    'a/icon_01.png': await flat('#111111'),
    'b/icon_01.png': await flat('#222222'),
    'view.png': await flat('#333333'),
  });
  const [first, second, view] = await waiting(drop);
  expect([first!.state, second!.state, view!.state]).toEqual(['ambiguous', 'ambiguous', 'ambiguous']);
  expect(first!.choices).toEqual([
    { path: 'ui/icons/icon_01.png', matchedBy: { code: 'also-matched', files: ['icon_01.png'] } },
  ]);
  expect(view!.choices.length).toBeGreaterThan(10);
  await placeIncomingFile(id, drop, second!.id, 'ui/icons/icon_01.png');
  await expect(placeIncomingFile(id, drop, first!.id, 'no/such/entry')).rejects.toMatchObject({
    fault: { code: 'no-such-entry' },
  });
  const run = await ended((await startBringIn(id, drop)).id);
  expect(run.result).toMatchObject({ taken: 1, left: 2, first: 'ui/icons/icon_01.png' });
  const [change] = await listChanges(id);
  expect(change).toMatchObject({ matchedBy: { code: 'by-hand' }, fileName: 'icon_01.png' });
  expect(await editChange(id, change!.id, { note: ' darker ' })).toMatchObject({ note: 'darker', undone: false });
  await skipFile(id, drop);
});

test('numbered files say what each way of counting would replace; labels find their entries', async () => {
  const cue = async (path: string) => {
    const { archive, n } = await findWinner(id, path);
    return (await wavOfEntry(archive, n)).bytes;
  };
  const other = await cue('voices/de/cue_0100.adpcm');
  const { drop } = await dropped({ 'en/1.wav': other, 'en/2.wav': other });
  expect((await waiting(drop)).map(({ state }) => state)).toEqual(['numbered', 'numbered']);
  expect((await numberedFolders(id, drop, undefined)).folders[0]).toMatchObject({ folder: 'voices/en', count: 28 });
  await setLabels(id, [{ path: 'voices/en/cue_0105.adpcm', text: 'last call' }]);
  const { ways } = await numberedFolders(id, drop, 'voices/en');
  expect(ways.map(({ counting, fits, shown }) => [counting, fits, shown[0]])).toEqual([
    ['own', 0, { name: 'en/1.wav', path: null, label: null }],
    ['from 0', 2, { name: 'en/1.wav', path: 'voices/en/cue_0105.adpcm', label: 'last call' }],
    ['from 1', 2, { name: 'en/1.wav', path: 'voices/en/cue_0100.adpcm', label: null }],
  ]);
  expect(await countNumbers(id, drop, { folder: 'voices/en', counting: 'from 0' })).toEqual({ placed: 2 });
  expect((await ended((await startBringIn(id, drop)).id)).result).toMatchObject({ taken: 2, left: 0 });
  expect((await listChanges(id)).slice(0, 2).map(({ path, matchedBy }) => [path, matchedBy])).toEqual(
    expect.arrayContaining([['voices/en/cue_0110.adpcm', { code: 'by-number', countedFrom: 0 }]]),
  );
  const labelled = await dropped({ 'last call.wav': await cue('voices/fr/cue_0100.adpcm') });
  expect(labelled.result).toMatchObject({ taken: 1, first: 'voices/en/cue_0105.adpcm' });
  expect((await listChanges(id))[0]).toMatchObject({
    matchedBy: { code: 'by-label', label: 'last call' },
    label: 'last call',
  });
  // What was kept apart from another of its name when it went out is told by the rest of it.
  const second = await dropped({ 'last call (2).wav': await cue('voices/fr/cue_0110.adpcm') });
  expect(second.result).toMatchObject({ taken: 1, first: 'voices/en/cue_0105.adpcm' });
});

test('an entry in the place of another goes in as what the game keeps there', async () => {
  const { id: drop } = await newDrop(id);
  const pairs = [
    { path: 'models/crane/crane_colour.tex', from: 'models/post_box/post_box_colour.tex' },
    { path: 'voices/en/cue_0120.adpcm', from: 'voices/de/cue_0125.adpcm' },
  ];
  expect(await addInstead(id, drop, pairs)).toEqual({ added: 2 });
  expect((await ended((await startBringIn(id, drop)).id)).result).toMatchObject({ taken: 2, left: 0 });
  const [a, b] = await listChanges(id);
  expect([a!.path, b!.path].sort()).toEqual(pairs.map(({ path }) => path));
  const picture = [a!, b!].find(({ kind }) => kind !== 'sound')!;
  // The same format and the same size: not a pixel is packed again.
  expect(picture.fitNotes[0]).toEqual({ code: 'picture-as-packed' });
  expect((await ended((await startBuild(id, 'keep')).id)).result).toMatchObject({ started: true });
});

test('a run that is stopped leaves what it did not reach waiting', async () => {
  const { id: drop } = await newDrop(id);
  const picture = await sharp({
    create: {
      width: 256,
      height: 256,
      channels: 3,
      background: '#abcdef',
      noise: { type: 'gaussian', mean: 128, sigma: 60 },
    },
  })
    .png()
    .toBuffer();
  const names = ['cabin', 'crane', 'post_box'].flatMap((one) => [`${one}_colour.png`, `${one}_normal.png`]);
  for (const name of names) await addIncomingFile(id, drop, { name, bytes: once(picture) });
  const run = await startBringIn(id, drop);
  await stopRun(run.id);
  const end = await ended(run.id);
  const left = (await waiting(drop)).length;
  expect(end.state).toBe('stopped');
  expect(left).toBeGreaterThan(0);
  expect((await ended((await startBringIn(id, drop)).id)).state).toBe('done');
  expect(await waiting(drop)).toEqual([]);
});

test('a file that is the same goes from a folder without a question, also when a run goes on with it alone', async () => {
  const path = 'words/en/captions.txt';
  const { id: drop } = await newDrop(id);
  await addIncomingFile(id, drop, { name: path, bytes: once(await bytesOf(path)) });
  // As it is left when the worker is killed behind the other files of the folder.
  const run = await startRun('bring-in', { title: 'The rest', gameId: id, input: { dropId: drop, alone: false } });
  expect((await ended(run.id)).result).toMatchObject({ taken: 0, same: 1, left: 0 });
  const { drop: single } = await dropped({ [path]: await bytesOf(path) });
  expect(await waiting(single)).toMatchObject([{ state: 'same' }]);
  await skipFile(id, single, (await waiting(single))[0]!.id);
});

test('a drop is undone as a whole: what it took the place of comes back, and what it had set aside itself does not', async () => {
  const path = 'tests/undone.bin';
  const [before, { id: drop }] = [await newDrop(id), await newDrop(id)];
  const change = (dropId: number, more: object) =>
    ChangeModel.create({
      gameId: id,
      path,
      kind: 'bytes',
      blob: '0'.repeat(64),
      size: 1,
      fileName: 'a',
      dropId,
      ...more,
    });
  const mine = await change(before.id, { undone: true, supersededBy: drop });
  const first = await change(drop, { undone: true, supersededBy: drop });
  const second = await change(drop, {});
  expect(await undoDrop(id, drop)).toEqual({ undone: 1 });
  const now = await ChangeModel.findAll({ where: { gameId: id, path }, order: [['id', 'ASC']] });
  expect(now.map((one) => [one.id, one.undone])).toEqual([
    [mine.id, false],
    [first.id, true],
    [second.id, true],
  ]);
  await ChangeModel.destroy({ where: { gameId: id, path } });
});

test('an import that is cut off says what is missing, takes the rest, and can be given up', async () => {
  const files = ['my/cabin_07_red.png', 'my/cabin_01_blue.png'];
  const bytes = await flat('#123456', 256);
  const order = files.map((name) => ({ name, size: bytes.length }));
  const { id: drop } = await newDrop(id, order);
  await addIncomingFile(id, drop, { name: files[0]!, bytes: once(bytes) });
  expect(await unfinishedImports(id)).toMatchObject([
    { id: drop, total: 2, received: 1, missing: [{ name: files[1], size: bytes.length }] },
  ]);
  await addIncomingFile(id, drop, { name: files[1]!, bytes: once(bytes) });
  expect(await unfinishedImports(id)).toMatchObject([{ received: 2, missing: [] }]);
  // Handed to the worker, it is an import like any other.
  expect((await ended((await startBringIn(id, drop)).id)).state).toBe('done');
  expect(await unfinishedImports(id)).toEqual([]);
  await undoDrop(id, drop);
  await skipFile(id, drop);

  const { id: second } = await newDrop(id, order);
  await addIncomingFile(id, second, { name: files[0]!, bytes: once(bytes) });
  await skipFile(id, second);
  expect(await unfinishedImports(id)).toEqual([]);
  expect((await listIncomingFiles(id)).rows.filter((row) => row.drop === second)).toEqual([]);
});
