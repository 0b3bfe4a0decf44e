/** Every texture, small picture and cue of the demo game: out, changed, back, accepted by the game, seen and heard in it. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { gameKey } from '../../demo/make-game';
import { pictureError, readDds } from '../../src/core/forms/picture';
import { readWavFacts, soundOfWav, writeWav } from '../../src/core/forms/sound';
import { addIncomingFile, listChanges, newDrop, startBringIn } from '../../src/server/changes';
import { BuildModel } from '../../src/server/database';
import { entryDetails, listEntries, thumbnail } from '../../src/server/entries';
import { entryBytes, findWinner } from '../../src/server/content';
import { addKey } from '../../src/server/games';
import { putBackAnswer, sceneBytes, startBuild } from '../../src/server/put-back';
import { entryQuery } from '../../src/server/shapes';
import { blobPath } from '../../src/server/storage';
import { editTray, startTakeOut } from '../../src/server/take-out';
import { ended, games, openedGame, settled, withWorker, once } from './support';
import { wavOfChange } from './subjects';

withWorker();

let id: number;
let paths: string[];
const out = () => join(games, 'seen-out');

beforeAll(async () => {
  ({ id } = await openedGame('seen'));
  await ended((await addKey(id, gameKey('1.4.1', 'voices').toString('hex'))).id);
  await settled(id);
  const find = async (search: string) =>
    (await listEntries(id, entryQuery.parse({ search, limit: '200' }))).rows.map(({ path }) => path);
  paths = [...(await find('*.tex')), ...(await find('signs.sheet *.dds')), ...(await find('voices/en/cue'))];
  expect(paths).toHaveLength(7 + 12 + 28);
});

const endingOf = (path: string) => (path.startsWith('voices/') ? 'wav' : 'png');
const outFile = (path: string) => join(out(), path.replace(/\.\w+$/, `.${endingOf(path)}`));
const rgbaOf = async (file: string | Buffer) => {
  const { data, info } = await sharp(file).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, rgba: new Uint8Array(data) };
};

/** Upside down, which no reader takes for what it was. */
async function changedPicture(file: string): Promise<Buffer> {
  return sharp(file).flip().png().toBuffer();
}
const soundIn = (bytes: Uint8Array, file: string) => soundOfWav(bytes, readWavFacts(bytes, file), file)!;
function changedSound(file: string): Uint8Array {
  const sound = soundIn(new Uint8Array(readFileSync(file)), file);
  return writeWav({ ...sound, samples: sound.samples.toReversed() });
}

test('a small picture of a sheet is an entry like any other', async () => {
  const path = 'ui/signs.sheet/open.dds';
  const { archive, n } = await findWinner(id, path);
  const details = await entryDetails(id, archive, n);
  expect(details).toMatchObject({ kind: 'picture', facts: { width: 64, height: 64, packing: 'BC3', direct: false } });
  expect(details.archivePath).toBe('core.hold/ui/signs.sheet');
  expect((await sharp(await thumbnail(archive, n)).metadata()).format).toBe('webp');
  expect(readDds((await entryBytes(archive, n)).bytes, path).format.name).toBe('bc3');
});

test('all go out, come back changed, and the game shows them as they were meant', async () => {
  await editTray(id, { add: paths, remove: [], clear: true });
  const order = { to: out(), layout: 'folders', form: 'open', pictures: 'png', sounds: 'wav' } as const;
  const taken = await ended((await startTakeOut(id, order)).id);
  expect(taken.result).toMatchObject({ taken: paths.length, turned: paths.length, failures: [] });
  const { id: drop } = await newDrop(id);
  for (const path of paths) {
    const file = outFile(path);
    const bytes = endingOf(path) === 'png' ? await changedPicture(file) : changedSound(file);
    await addIncomingFile(id, drop, {
      name: `mine/${path.replace(/\.\w+$/, `.${endingOf(path)}`)}`,
      bytes: once(bytes),
    });
  }
  const run = await ended((await startBringIn(id, drop)).id);
  // The flat mask of paint is the same upside down, and so are some signs: these are no changes.
  const result = run.result as { taken: number; same: number; left: number };
  expect([result.taken + result.same, result.left]).toEqual([paths.length, 0]);
  expect(result.same).toBeLessThan(6);

  const built = await ended((await startBuild(id, 'keep')).id);
  expect(built.result).toMatchObject({ started: true });
  const [build] = await BuildModel.findAll({ where: { gameId: id }, order: [['id', 'DESC']], limit: 1 });
  const { report } = (await putBackAnswer(id)).builds[0]!;
  const changes = await listChanges(id);
  for (const change of changes) {
    if (change.path.includes('.sheet/')) continue;
    const shown = report!.shown.find(({ path }) => path === change.path);
    expect([change.path, shown?.kind]).toEqual([change.path, change.path.startsWith('voices/') ? 'sound' : 'picture']);
    const bytes = readFileSync(blobPath(shown!.blob));
    if (shown!.kind === 'sound') {
      // Two decoders that share nothing hear the same.
      const meant = (await wavOfChange(id, change.id)).bytes;
      const heard = soundIn(bytes, change.path);
      expect(heard.samples.length).toBeGreaterThan(1000);
      expect(heard.samples).toEqual(soundIn(meant, change.path).samples);
    } else {
      const { decibels } = pictureError(await rgbaOf(bytes), await rgbaOf(await changedPicture(outFile(change.path))));
      expect(decibels).toBeGreaterThan(30);
    }
  }
  const place = report!.shown.findIndex(({ path }) => path === 'ui/signs.sheet');
  const before = await sceneBytes(id, build!.id, { when: 'before', what: place });
  const after = await sceneBytes(id, build!.id, { when: 'after', what: place });
  const [was, is] = [await rgbaOf(Buffer.from(before.bytes)), await rgbaOf(Buffer.from(after.bytes))];
  // The lower rim of the sheet between the last sign and the banner belongs to no one.
  const nobodys = (rgba: Uint8Array) => rgba.subarray((100 * 256 + 200) * 4, (100 * 256 + 256) * 4);
  expect(nobodys(is.rgba)).toEqual(nobodys(was.rgba));
  expect(pictureError(was, is).decibels).toBeLessThan(40);
});

test('a sheet that is changed, and a small picture in it: both are seen', async () => {
  const sheet = await sharp({ create: { width: 256, height: 256, channels: 4, background: '#204080' } })
    .png()
    .toBuffer();
  const sign = await sharp({ create: { width: 64, height: 64, channels: 4, background: '#c04020' } })
    .png()
    .toBuffer();
  const { id: drop } = await newDrop(id);
  await addIncomingFile(id, drop, { name: 'ui/signs.png', bytes: once(sheet) });
  await addIncomingFile(id, drop, { name: 'ui/signs.sheet/letters.png', bytes: once(sign) });
  expect((await ended((await startBringIn(id, drop)).id)).result).toMatchObject({ taken: 2, left: 0 });
  expect((await ended((await startBuild(id, 'patch')).id)).result).toMatchObject({ started: true });
  const { report } = (await putBackAnswer(id)).builds[0]!;
  const { rgba } = await rgbaOf(
    readFileSync(blobPath(report!.shown.find(({ path }) => path === 'ui/signs.sheet')!.blob)),
  );
  const at = (x: number, y: number) => [...rgba.subarray((y * 256 + x) * 4, (y * 256 + x) * 4 + 3)];
  const near = (found: number[], wanted: number[]) => found.every((value, i) => Math.abs(value - wanted[i]!) < 10);
  expect(near(at(160, 32), [0xc0, 0x40, 0x20])).toBe(true);
  expect(near(at(230, 120), [0x20, 0x40, 0x80])).toBe(true);
});
