/** Find against a real database: the catalogue, labels, lists, what is inside entries, and what names what. */
import { readFileSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { pathHash } from '../../demo/archives/world';
import {
  compareEntries,
  findInEntry,
  glancesAt,
  listEntries,
  listFolders,
  listPaths,
  overviewOf,
  placeInList,
  removeSearch,
  saveSearch,
} from '../../src/server/entries';
import { findWinner } from '../../src/server/content';
import { exportProfile, importProfile } from '../../src/server/games';
import { linksOf, listHits, startInside, startLinks } from '../../src/server/inside';
import { changeText, textPlaceOf } from '../../src/server/changes';
import { startBuild, putBackAnswer } from '../../src/server/put-back';
import { listChanges, setUndone } from '../../src/server/changes';
import { blobPath } from '../../src/server/storage';
import { exportLabels, layLabelTable, setLabels } from '../../src/server/labels';
import { entryPlace, entryQuery, insideOrder, textPlaceQuery } from '../../src/server/shapes';
import { addTrayList, editTray, listTray, trayList } from '../../src/server/take-out';
import { ended, fault, openedGame, settled, withWorker } from './support';

withWorker();

let id: number;
let folder: string;
beforeAll(async () => {
  ({ id, folder } = await openedGame('find'));
  await settled(id);
});

const found = async (search: string, more: object = {}) =>
  (await listEntries(id, entryQuery.parse({ search, ...more }))).rows.map(({ path }) => path);

test('folders add up to the entries, and the place of an entry is where the list has it', async () => {
  const { total } = await listEntries(id, entryQuery.parse({}));
  const folders = await listFolders(id, '');
  const { paths } = await listPaths(id, { place: entryPlace.parse({}) });
  const inNone = paths.filter((path) => !path.includes('/')).length;
  expect(folders.reduce((sum, { count }) => sum + count, inNone)).toBe(total);
  const place = entryPlace.parse({ folder: 'tannoy', sort: 'size', order: 'down' });
  const { rows } = await listEntries(id, entryQuery.parse(place));
  expect(rows[0]!.size).toBeGreaterThan(rows.at(-1)!.size);
  const { archive, n } = rows[7]!;
  expect(await placeInList(id, place, archive, n)).toEqual({ place: 7 });
});

test('an entry is labelled, found by its label, and the label goes with a profile', async () => {
  await setLabels(id, [
    { path: 'tannoy/call_09.wav', text: 'doors, too loud' },
    { path: 'tannoy/call_10.wav', text: 'gone again' },
  ]);
  expect(await found('label:loud')).toEqual(['tannoy/call_09.wav']);
  await setLabels(id, [{ path: 'tannoy/call_10.wav', text: ' ' }]);
  expect(await exportLabels(id)).toBe('path,label\r\ntannoy/call_09.wav,"doors, too loud"\r\n');
  const profile = JSON.parse(JSON.stringify(await exportProfile(id))) as object;
  const other = await openedGame('find-other');
  await importProfile(other.id, profile);
  await settled(other.id);
  expect((await listEntries(other.id, entryQuery.parse({ search: 'label:loud' }))).rows).toMatchObject([
    { path: 'tannoy/call_09.wav', label: 'doors, too loud' },
  ]);
});

test('a table of numbers is shown as both ways of counting have it, and taken as one', async () => {
  const text = '12,bell\n13,horn\n99,nothing\n';
  const { ways, set } = await layLabelTable(id, { text, folder: 'tannoy' });
  expect(set).toBe(0);
  expect(ways.map(({ take, shown }) => [take, shown.map(({ path }) => path)])).toEqual([
    // Not all names have numbers, so that places count.
    ['from 0', [expect.any(String), expect.any(String)]],
    ['from 1', [expect.any(String), expect.any(String)]],
  ]);
  expect(ways[1]!.shown[1]).toMatchObject({ path: ways[0]!.shown[0]!.path, text: 'horn' });
  expect((await layLabelTable(id, { text, folder: 'tannoy', take: 'from 1' })).set).toBe(2);
  expect(await found('label:horn')).toEqual([ways[1]!.shown[1]!.path]);
  expect(await fault(layLabelTable(id, { text }))).toMatchObject({ code: 'invalid-request' });
  const byPath = layLabelTable(id, { text, folder: 'tannoy', take: 'by path' });
  expect(await fault(byPath)).toMatchObject({ code: 'invalid-request', found: 'by path' });
});

test('a list, and parts of one, go into the tray; the tray is written as a list and in again', async () => {
  await editTray(id, { add: [], remove: [], clear: true });
  const place = entryPlace.parse({ search: 'kind:sound', folder: 'tannoy' });
  const edit = { add: [], remove: [], clear: false };
  const { total } = await editTray(id, {
    ...edit,
    addList: {
      place,
      ranges: [
        [0, 2],
        [5, 6],
      ],
    },
  });
  expect(total).toBe(3);
  const list = await trayList(id);
  expect(list.split('\n').filter((line) => line !== '')).toHaveLength(3);
  await editTray(id, { ...edit, clear: true });
  expect(await addTrayList(id, `# mine\n${list}no/such.entry\n`)).toEqual({
    added: 3,
    unknown: 1,
    first: ['no/such.entry'],
  });
  expect((await listTray(id)).total).toBe(3);
});

test('a text inside entries is found with its place, in whatever encoding; the search says what it looked through', async () => {
  const order = (sought: object) => insideOrder.parse({ place: entryPlace.parse({}), sought });
  const run = await ended((await startInside(id, order({ is: 'text', text: 'mind the doors' }))).id);
  expect(run.result).toMatchObject({ failures: 0, cut: false });
  const { rows, total } = await listHits(id, run.id, 0);
  expect(total).toBe((run.result as { hits: number }).hits);
  const hit = rows.find(({ path }) => path === 'words/en/captions.txt')!;
  const winner = await findWinner(id, hit.path);
  expect(hit).toMatchObject({ ...winner, form: 'UTF-8' });
  const again = { sought: { is: 'text' as const, text: 'mind the doors', exact: false }, from: 0 };
  expect(await findInEntry(winner.archive, winner.n, again)).toEqual({ found: { at: hit.at, length: 14 } });
  expect(await findInEntry(winner.archive, winner.n, { ...again, from: hit.at + 1 })).toEqual({ found: null });
  expect(await fault(startInside(id, order({ is: 'bytes', bytes: '?? ??' })))).toMatchObject({
    code: 'invalid-request',
  });
});

test('an archive that has gone is told, and the others are looked through all the same', async () => {
  const other = await openedGame('find-gone');
  await settled(other.id);
  renameSync(join(other.folder, 'props.crate'), join(other.folder, '..', 'props.away'));
  const order = insideOrder.parse({ place: entryPlace.parse({}), sought: { is: 'text', text: 'mind the doors' } });
  const run = await ended((await startInside(other.id, order)).id);
  expect(run).toMatchObject({ state: 'done', result: { failures: 50, cut: false } });
  expect(JSON.stringify(run.log)).toContain('props.crate');
  const { rows } = await listHits(other.id, run.id, 0);
  expect(rows.map(({ path }) => path)).toContain('words/en/captions.txt');
});

test('what names what: a model its textures, a texture its far half, a scene its livery', async () => {
  expect(await linksOf(id, 'scenes/title.json')).toMatchObject({ known: false, uses: [] });
  expect((await ended((await startLinks(id)).id)).result).toMatchObject({ failures: 0 });
  expect(await linksOf(id, 'scenes/title.json')).toMatchObject({
    known: true,
    stale: false,
    uses: ['cabins/livery/cabin_07_red.png', 'tannoy/doors_closing.wav'],
  });
  // By the hash of its path alone.
  const whole = `nameless/bytes/${pathHash('world/valley/whole.height').toString(16).padStart(16, '0')}.bin`;
  expect((await linksOf(id, whole)).usedBy).toEqual([expect.stringMatching(/^nameless\/records\/[0-9a-f]{16}\.json$/)]);
  const colour = await linksOf(id, 'models/crane/crane_colour.tex');
  expect(colour.usedBy).toEqual(['models/crane/crane.mesh']);
  expect(colour.uses).toEqual(['models/crane/crane_colour.texfar']);
  expect(await found('used-by:crane.mesh')).toEqual(['models/crane/crane_colour.tex', 'models/crane/crane_normal.tex']);
  expect(await found('uses:crane.mesh')).toEqual(['models/crane/lift.clip', 'models/crane/turn.clip']);
});

test('two entries beside each other: which is the more detailed, and where they begin to differ', async () => {
  const small = await findWinner(id, 'ui/icons/icon_01.png');
  const large = await findWinner(id, 'cabins/livery/cabin_01_blue.png');
  const { same, verdict } = await compareEntries({ game: id, ...small }, { game: id, ...large });
  expect(same).toBe(false);
  expect(verdict).toBe('cabin_01_blue.png is the more detailed one: 64 × 64 and 256 × 256 pixels.');
  expect(await compareEntries({ game: id, ...large }, { game: id, ...large })).toMatchObject({
    same: true,
    differences: [],
  });
});

test('entries at a glance, and what cannot be glanced at says nothing', async () => {
  const places = await Promise.all(
    [
      'cabins/livery/cabin_01_blue.png',
      'tannoy/gate_open.wav',
      'scenes/title.json',
      'models/crane/crane.mesh',
      'models/crane/crane_colour.texfar',
    ].map((path) => findWinner(id, path)),
  );
  const glances = await glancesAt(places.map(({ archive, n }) => [archive, n]));
  expect(glances).toMatchObject([
    { summary: '256² PNG', shows: { is: 'thumbnail' } },
    { summary: expect.stringMatching(/^\d+\.\d s$/), shows: { is: 'peaks' } },
    { summary: '', shows: { is: 'lines' } },
    { summary: '220 triangles', shows: { is: 'thumbnail' } },
    { summary: '', shows: { is: 'mark' } },
  ]);
});

test('what the game is made of, in words', async () => {
  const { methods, kinds, total } = await overviewOf(
    id,
    entryPlace.parse({ archive: (await findWinner(id, 'scenes/title.json')).archive }),
  );
  expect(methods.map(({ name }) => name).sort()).toEqual(['lz4-block', 'stored as it is', 'zlib']);
  expect(methods.reduce((sum, { count }) => sum + count, 0)).toBe(total.count);
  expect(kinds.map(({ kind }) => kind)).toContain('sound');
});

test('a search is kept under its name, replaced and forgotten', async () => {
  await saveSearch(id, { name: 'loud', place: 'search=label%3Aloud' });
  const [kept] = await saveSearch(id, { name: 'loud', place: 'search=loud' });
  expect(kept).toMatchObject({ name: 'loud', place: 'search=loud' });
  expect(await removeSearch(id, kept!.id)).toEqual([]);
  expect(await fault(removeSearch(id, kept!.id))).toMatchObject({ code: 'not-found' });
});

test('a search that means nothing is refused with what would mean something', async () => {
  expect(await fault(listEntries(id, entryQuery.parse({ search: 'kind:sausage' })))).toMatchObject({
    code: 'invalid-request',
    expected: expect.stringContaining('picture'),
  });
});

test('a text in a file that nothing reads is found, changed in its place, and joins a build once that is said', async () => {
  const order = insideOrder.parse({ place: {}, sought: { is: 'text', text: 'Gondola Post' } });
  const run = await ended((await startInside(id, order)).id);
  const hit = (await listHits(id, run.id, 0)).rows.find(({ path }) => path === 'gondola-post.bin')!;
  expect(hit).toMatchObject({ n: -1, form: 'UTF-8' });
  const place = textPlaceQuery.parse({ ...hit, encoding: hit.form });
  const was = await textPlaceOf(id, place);
  expect(was.text).toContain('Gondola Post 1.4.1');
  const text = was.text.replace('Gondola Post', 'Gondel Post');
  expect(await fault(changeText(id, { ...place, text: `${was.text}!`, join: false }))).toMatchObject({
    code: 'limit-reached',
  });
  const { change } = await changeText(id, { ...place, text, join: false });
  const [kept] = await listChanges(id);
  expect(kept).toMatchObject({
    id: change,
    undone: true,
    path: expect.stringMatching(/^gondola-post.bin\/words\/.*txt$/),
  });
  expect(await fault(startBuild(id, 'patch'))).toMatchObject({ what: 'nothing is changed' });
  await setUndone(id, change, false);
  const built = await ended((await startBuild(id, 'patch')).id);
  expect(built.result).toMatchObject({ started: true });
  const [build] = (await putBackAnswer(id)).builds;
  expect(build!.files.map(({ name }) => name)).toEqual(['gondola-post.bin']);
  const program = readFileSync(blobPath(build!.files[0]!.sha256));
  const before = readFileSync(join(folder, 'gondola-post.bin'));
  expect(program.length).toBe(before.length);
  expect(program.toString('latin1', was.at, was.at + was.length).replace(/[ \0]+$/, '')).toBe(text);
  expect(program.subarray(0, was.at)).toEqual(before.subarray(0, was.at));
  await setUndone(id, change, true);
});
