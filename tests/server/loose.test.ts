/** Games of loose files: found at once and by what they hold, changed in place, and brought back. */
import { createHash } from 'node:crypto';
import { mkdirSync, readFileSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import iconv from 'iconv-lite';
import sharp from 'sharp';
import { addIncomingFile, newDrop, removeEntry, startBringIn } from '../../src/server/changes';
import { entryDetails, listEntries } from '../../src/server/entries';
import { entryBytes, findWinner } from '../../src/server/content';
import { addGame, gameAnswer } from '../../src/server/games';
import { putBackAnswer, startBuild, startPutIn, startTakeBack } from '../../src/server/put-back';
import { startRun } from '../../src/server/runs';
import { entryQuery } from '../../src/server/shapes';
import { ended, fault, games, once, settled, withWorker } from './support';
import { fit } from './subjects';

withWorker();

const PICTURES = 1500;
const RUSSIAN = 'Осторожно, двери закрываются.\r\nСледующая станция: Верхняя.\r\n'.repeat(3);
const sha = (path: string) => createHash('sha256').update(readFileSync(path)).digest('hex');

let id: number;
let folder: string;
beforeAll(async () => {
  folder = join(games, 'loose-game');
  for (const part of ['art/far', 'text', 'odd']) mkdirSync(join(folder, part), { recursive: true });
  const picture = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#2060c0' } })
    .png()
    .toBuffer();
  for (let i = 0; i < PICTURES; i++) writeFileSync(join(folder, 'art/far', `cabin_${i}.png`), picture);
  // Names say nothing of these, what they hold does.
  writeFileSync(join(folder, 'art/sign'), picture);
  writeFileSync(join(folder, 'text/lines.strings'), 'Mind the doors.\nThe next cabin leaves soon.\n');
  writeFileSync(join(folder, 'text/none.txt'), '');
  writeFileSync(join(folder, 'text/ru.txt'), iconv.encode(RUSSIAN, 'windows-1251'));
  // A name that lies, and bytes that nothing tells.
  writeFileSync(
    join(folder, 'odd/false.png'),
    Uint8Array.from({ length: 999 }, (_, i) => (i * 97) ^ (i >> 3)),
  );
  const { game, run } = await addGame({ folder });
  ({ id } = game);
  expect((await ended(run.id)).state).toBe('done');
  await settled(id);
});

const all = async (search = '') => (await listEntries(id, entryQuery.parse({ search, limit: 200 }))).total;

test('every file with a form is an entry under its own path, and only the others are unknown', async () => {
  const { archives, loose } = await gameAnswer(id);
  expect(loose.files).toBe(PICTURES + 3);
  expect(archives.map(({ path, state }) => [path, state])).toEqual([
    ['odd/false.png', 'unknown'],
    ['text/none.txt', 'unknown'],
  ]);
  expect(await all('kind:picture')).toBe(PICTURES + 1);
  const { rows } = await listEntries(id, entryQuery.parse({ search: 'lines', limit: 10 }));
  expect(rows.map(({ path, kind }) => [path, kind])).toEqual([['text/lines.strings', 'words']]);
  const { archive, n } = await findWinner(id, 'text/lines.strings');
  expect(Buffer.from((await entryBytes(archive, n)).bytes).toString()).toContain('Mind the doors.');
});

test('a second scan reads nothing; a file that has changed is seen, one that has gone is gone', async () => {
  const scan = async () => (await ended((await startRun('scan', { title: 'Scan', gameId: id, input: {} })).id)).result;
  expect(await scan()).toMatchObject({ read: 0 });
  const path = join(folder, 'text/lines.strings');
  writeFileSync(path, 'Mind the gap.\n');
  utimesSync(path, new Date(), new Date(Date.now() + 5000));
  expect(await scan()).toMatchObject({ read: 1 });
  const { rows } = await listEntries(id, entryQuery.parse({ search: 'lines', limit: 10 }));
  expect(rows.map(({ kind, size }) => [kind, size])).toEqual([['words', 14]]);
});

test('a text comes back in its encoding and with its line ends, and what is no text is refused', async () => {
  const path = 'text/ru.txt';
  const { archive, n } = await findWinner(id, path);
  const original = (await entryBytes(archive, n)).bytes;
  const fitted = await fit(path, original, Buffer.from('Снег на линии.\nЖдите.\n'), 'ru.txt');
  expect(iconv.decode(Buffer.from(fitted.bytes), 'windows-1251')).toBe('Снег на линии.\r\nЖдите.\r\n');
  expect(fitted.notes).toEqual([
    { code: 'text-encoding', encoding: 'windows-1251', hasMark: false },
    { code: 'text-line-ends', lineEnds: '\r\n' },
  ]);
  // Under a name that says nothing, other bytes are taken as they are.
  const bytes = Uint8Array.of(1, 2, 3, 0, 255);
  expect(await fit('state.dat', Buffer.from('a text'), bytes, 'state.dat')).toEqual({ bytes, notes: [] });
  await expect(fit(path, original, Buffer.from('❄\n'), 'ru.txt')).rejects.toThrow(/❄/);
  await expect(fit(path, original, Uint8Array.of(1, 2, 3, 0, 255), 'ru.txt')).rejects.toMatchObject({
    fault: { code: 'wrong-kind' },
  });
});

test('a loose file is not removed: that is said at once, and not by a build', async () => {
  const path = 'art/far/cabin_9.png';
  const { archive, n } = await findWinner(id, path);
  expect((await entryDetails(id, archive, n)).removable).toBe(false);
  expect(await fault(removeEntry(id, path))).toMatchObject({ code: 'conflict' });
});

test('a replaced file goes in place, its original is kept, and comes back', async () => {
  const path = 'art/far/cabin_7.png';
  const before = sha(join(folder, path));
  const red = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#c02020' } })
    .png()
    .toBuffer();
  const { id: drop } = await newDrop(id);
  await addIncomingFile(id, drop, { name: path, path, bytes: once(red) });
  expect((await ended((await startBringIn(id, drop)).id)).result).toMatchObject({ taken: 1 });
  expect((await ended((await startBuild(id, 'keep')).id)).state).toBe('done');
  const [build] = (await putBackAnswer(id)).builds;
  expect(build!.files.map(({ name }) => name)).toEqual([path]);
  expect((await ended((await startPutIn(id, build!.id)).id)).state).toBe('done');
  expect(statSync(join(folder, path)).size).toBe(readFileSync(join(folder, path)).length);
  expect(sha(join(folder, path))).toBe(createHash('sha256').update(red).digest('hex'));
  const [install] = (await putBackAnswer(id)).installs;
  expect((await ended((await startTakeBack(id, install!.id, false)).id)).state).toBe('done');
  expect(sha(join(folder, path))).toBe(before);
});
