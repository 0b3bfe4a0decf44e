/** Pictures against a real database: seen, taken out in open formats, changed, and put back so that the game loads them. */
import { sayNote } from '../../src/core/notes';
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import {
  flatPicture,
  packPicture,
  pictureError,
  findPixelFormat,
  unpackLevel,
  type Pixels,
} from '../../src/core/forms/picture';
import { writeDds } from '../../src/core/forms/picture';
import { listChanges, setUndone, takeChange } from '../../src/server/changes';
import { entryDetails, glancesAt, listEntries, thumbnail } from '../../src/server/entries';
import { findWinner } from '../../src/server/content';
import { levelOf, pictureFileAs } from '../../src/server/forms';
import { pictureOfFiles } from '../../src/server/forms/picture';
import { startBuild } from '../../src/server/put-back';
import { entryQuery } from '../../src/server/shapes';
import { downloadZip, editTray, startTakeOut } from '../../src/server/take-out';
import { ended, games, openedGame, settled, withWorker } from './support';
import { fit, pictureOfChange, pictureOfEntry } from './subjects';

withWorker();

let id: number;
beforeAll(async () => {
  ({ id } = await openedGame('pictures'));
  await settled(id);
});

const colour = 'models/cabin/cabin_colour.tex';
const drop = (path: string, fileName: string, bytes: Uint8Array) => takeChange(id, { path, fileName, bytes });
const refused = (work: Promise<unknown>) =>
  work.then(
    () => undefined,
    (error: { fault: { code: string; what?: string } }) => error.fault,
  );

/** Stripes, so that a picture that is not the one meant is told at once. */
function stripes(width: number, height: number, alpha = 255): Pixels {
  const rgba = new Uint8Array(width * height * 4);
  for (let i = 0; i < width * height; i++) {
    const on = ((i % width) >> 4) % 2 === 0;
    rgba.set(on ? [30, 160, 60, alpha] : [240, 220, 30, alpha], i * 4);
  }
  return { width, height, rgba };
}
const png = ({ width, height, rgba }: Pixels) =>
  sharp(rgba, { raw: { width, height, channels: 4 } })
    .png()
    .toBuffer();

test('a texture is a picture of its two halves, with its facts, its mips and a thumbnail', async () => {
  const { archive, n } = await findWinner(id, colour);
  const details = await entryDetails(id, archive, n);
  expect(details).toMatchObject({
    kind: 'picture',
    facts: {
      form: 'picture',
      width: 256,
      height: 256,
      packing: 'BC1',
      mips: 9,
      srgb: true,
      companions: [`${colour}far`],
      direct: false,
    },
  });
  expect(details.expects[1]).toBe('BC1, colours in sRGB.');
  const { picture } = await pictureOfEntry(archive, n);
  expect(levelOf(picture, { mip: 3, layer: 0, face: 0 }).head).toEqual({
    width: 32,
    height: 32,
    format: 'bc1',
    srgb: true,
  });
  expect(() => levelOf(picture, { mip: 9, layer: 0, face: 0 })).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'not-found' }) }),
  );
  const [card] = await glancesAt([[archive, n]]);
  expect(card).toEqual({ summary: '256² BC1', shows: { is: 'thumbnail', webp: expect.any(String) } });
  expect(Buffer.from((card!.shows as { webp: string }).webp, 'base64').equals(await thumbnail(archive, n))).toBe(true);
  expect((await sharp(await thumbnail(archive, n)).metadata()).format).toBe('webp');
  const { rows } = await listEntries(id, entryQuery.parse({ search: 'kind:picture .tex' }));
  expect(rows).toHaveLength(7);
});

test('textures go out in every open format, and independent readers see the same pixels', async () => {
  await editTray(id, {
    add: [colour, 'models/cabin/cabin_normal.tex', 'cabins/livery/cabin_07_red.png'],
    remove: [],
    clear: true,
  });
  for (const as of ['png', 'dds'] as const) {
    const to = join(games, `pictures-${as}`);
    const run = await ended((await startTakeOut(id, { to, layout: 'folders', form: 'open', pictures: as })).id);
    expect(run.result).toMatchObject({ taken: 3, turned: as === 'png' ? 2 : 3, failures: [] });
    const { archive, n } = await findWinner(id, colour);
    const own = unpackLevel((await pictureOfEntry(archive, n)).picture, { mip: 0 });
    const file = join(to, `models/cabin/cabin_colour.${as}`);
    execFileSync('ffmpeg', ['-v', 'error', '-i', file, '-f', 'rawvideo', '-pix_fmt', 'rgba', join(to, 'raw'), '-y']);
    const theirs = { ...own, rgba: new Uint8Array(readFileSync(join(to, 'raw'))) };
    expect(pictureError(own, theirs).largest).toBeLessThanOrEqual(as === 'png' ? 0 : 2);
  }
  const { archive, n } = await findWinner(id, colour);
  expect((await pictureFileAs(await pictureOfEntry(archive, n), 'ktx2', new AbortController().signal)).path).toBe(
    'models/cabin/cabin_colour.ktx2',
  );
});

test('a dropped PNG becomes both halves of a texture; the game loads them; undone together', async () => {
  const given = stripes(300, 300);
  const change = await drop(colour, 'stripes.png', await png(given));
  expect(change).toMatchObject({ path: colour, companions: [`${colour}far`], kind: 'picture' });
  expect(change.fitNotes[0]).toEqual({ code: 'picture-resized', from: [300, 300], to: [256, 256] });
  expect(change.fitNotes.at(-1)).toEqual({ code: 'picture-entries-together', count: 2 });
  const { picture } = await pictureOfChange(id, change.id);
  const [r, g, b] = unpackLevel(picture, { mip: 0 }).rgba;
  expect([Math.abs(r! - 30), Math.abs(g! - 160), Math.abs(b! - 60)].every((apart) => apart < 12)).toBe(true);
  const run = await ended((await startBuild(id, 'patch')).id);
  expect(run.result).toMatchObject({ started: true });
  expect(await listChanges(id)).toHaveLength(1);
  await setUndone(id, change.id, true);
  expect((await listEntries(id, entryQuery.parse({ search: 'changed: texfar' }))).total).toBe(0);
  await setUndone(id, change.id, false);
  expect((await listEntries(id, entryQuery.parse({ search: 'changed: texfar' }))).total).toBe(1);
  // Another takes the place of both.
  await drop(colour, 'other.png', await png(stripes(256, 256, 200)));
  expect((await listChanges(id)).map(({ undone }) => undone)).toEqual([false, true]);
  // Dropped on the half without a header it is for the picture as well.
  expect(await drop(`${colour}far`, 'third.png', await png(stripes(256, 256, 90)))).toMatchObject({
    path: colour,
    companions: [`${colour}far`],
  });
});

test('a DDS that is packed already goes in as it is, and a normal map keeps its roughness', async () => {
  const bc1 = packPicture(stripes(256, 256), findPixelFormat('bc1')!, { srgb: true, quality: 'fast' });
  const change = await drop(colour, 'mine.dds', writeDds(bc1));
  expect(change.fitNotes[0]).toEqual({ code: 'picture-as-packed' });
  expect((await pictureOfChange(id, change.id)).picture.levels.map((level) => Buffer.from(level))).toEqual(
    bc1.levels.map((level) => Buffer.from(level)),
  );
  const normal = 'models/crane/crane_normal.tex';
  const flat = await sharp({ create: { width: 256, height: 256, channels: 3, background: { r: 128, g: 128, b: 255 } } })
    .png()
    .toBuffer();
  const changed = await drop(normal, 'flat.png', flat);
  expect(changed.fitNotes).toContainEqual({ code: 'picture-alpha-kept' });
  expect(changed.fitNotes).toContainEqual({ code: 'picture-mips-made', count: 9, as: 'normals' });
  expect((await ended((await startBuild(id, 'keep')).id)).result).toMatchObject({ started: true });
});

test('a texture takes another packing and size where its header leaves them free; the game loads it', async () => {
  const { archive, n } = await findWinner(id, colour);
  expect((await entryDetails(id, archive, n)).facts).toMatchObject({ free: { format: true, size: true } });
  const clear = stripes(500, 500, 90);
  const bytes = await png(clear);
  const fitOptions = { chosen: true, ownSize: true };
  const change = await takeChange(id, { path: colour, fileName: 'large.png', bytes, fitOptions });
  expect(change.fitNotes.slice(0, 3).map(sayNote)).toEqual([
    '512 × 512 instead of 256 × 256, as yours is',
    'BC3, because alpha is used: 100 % of the pixels are transparent',
    'yours was 500 × 500, resized to 512 × 512',
  ]);
  const { picture } = await pictureOfChange(id, change.id);
  expect(picture).toMatchObject({ width: 512, height: 512, mips: 10, format: { name: 'bc3' } });
  expect(Math.abs(unpackLevel(picture, { mip: 0 }).rgba[3]! - 90)).toBeLessThan(8);
  expect((await ended((await startBuild(id, 'keep')).id)).result).toMatchObject({ started: true });
  await setUndone(id, change.id, true);
  // A small picture of a sheet has its place.
  const sign = await findWinner(id, 'ui/signs.sheet/open.dds');
  expect((await entryDetails(id, sign.archive, sign.n)).facts).toMatchObject({ free: { format: false, size: false } });
});

test('what is no picture, or none that fits, is refused, and nothing changes', async () => {
  const before = await listChanges(id);
  const mask = 'models/cabin/cabin_paint.tex';
  expect(await refused(drop(mask, 'words.png', Buffer.from('only words')))).toMatchObject({
    code: 'wrong-kind',
    what: 'this is no picture',
  });
  const broken = (await png(stripes(64, 64))).subarray(0, 100);
  expect(await refused(drop(mask, 'broken.png', broken))).toMatchObject({ code: 'wrong-kind' });
  const huge = writeDds(flatPicture(stripes(4, 4), findPixelFormat('rgba8')!, true));
  new DataView(huge.buffer).setUint32(16, 20_000, true);
  expect(await refused(drop(mask, 'huge.dds', huge))).toMatchObject({ code: 'limit-reached' });
  const { archive, n } = await findWinner(id, mask);
  const same = await pictureFileAs(await pictureOfEntry(archive, n), 'png', new AbortController().signal);
  expect(await refused(drop(mask, 'same.png', same.bytes))).toMatchObject({ code: 'conflict' });
  expect(await listChanges(id)).toEqual(before);
});

test('an original that is JPEG, WebP, GIF or TIFF gets what it is, and one that is only read takes its own kind alone', async () => {
  const given = await png(stripes(80, 60));
  for (const [format, name] of [
    ['jpeg', 'a.jpg'],
    ['webp', 'a.webp'],
    ['gif', 'a.gif'],
    ['tiff', 'a.tif'],
  ] as const) {
    const original = await sharp(await png(stripes(64, 64)))
      [format]()
      .toBuffer();
    const { bytes, notes } = await fit(`pictures/${name}`, original, given, 'mine.png');
    expect(await sharp(bytes).metadata()).toMatchObject({ format, width: 64, height: 64 });
    expect(notes).toEqual([
      { code: 'picture-resized', from: [80, 60], to: [64, 64] },
      { code: 'picture-converted', to: format.toUpperCase() },
    ]);
    expect((await fit(`pictures/${name}`, original, original, name)).notes).toEqual([]);
  }
  const drawn = Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="8" height="8"><path d="M0 0h8v8z"/></svg>');
  expect(await refused(fit('pictures/a.svg', drawn, given, 'mine.png'))).toMatchObject({ code: 'wrong-kind' });
  expect((await fit('pictures/a.svg', drawn, drawn, 'mine.svg')).bytes).toBe(drawn);
});

test('a picture in the place of one that moves is noted', async () => {
  const frames = await Promise.all(
    ['#a00', '#0a0'].map((background) =>
      sharp({ create: { width: 8, height: 8, channels: 3, background } })
        .png()
        .toBuffer(),
    ),
  );
  const moving = await sharp(frames, { join: { animated: true } })
    .gif()
    .toBuffer();
  expect((await sharp(moving).metadata()).pages).toBe(2);
  const still = await fit('pictures/a.gif', moving, await png(stripes(8, 8)), 'mine.png');
  expect(still.notes).toContainEqual({ code: 'picture-frames-lost', before: 2 });
  expect((await fit('pictures/a.gif', moving, moving, 'mine.gif')).notes).toEqual([]);
  // A still picture of the same format is no other: it is resized, and noted.
  const larger = await sharp(await png(stripes(20, 20)))
    .gif()
    .toBuffer();
  const same = await fit('pictures/a.gif', moving, larger, 'mine.gif');
  expect(same.notes).toContainEqual({ code: 'picture-frames-lost', before: 2 });
  expect(await sharp(same.bytes).metadata()).toMatchObject({ format: 'gif', width: 8, height: 8 });
});

test('the ZIP turns pictures as the run does', async () => {
  await editTray(id, { add: [colour], remove: [], clear: true });
  const run = await startTakeOut(id, { to: null, pictures: 'png' });
  // It is downloaded from its first byte on, while the run writes it.
  const zip = await downloadZip(id, run.id, new AbortController().signal);
  const bytes = Buffer.from(await new Response(zip).arrayBuffer());
  const file = join(games, 'tray.zip');
  writeFileSync(file, bytes);
  execFileSync('7z', ['t', file]);
  expect((await ended(run.id)).result).toMatchObject({ folder: null, taken: 1, bytes: expect.any(Number) });
  expect(bytes.includes('models/cabin/cabin_colour.png')).toBe(true);
  expect(bytes.includes('cabin_colour.tex')).toBe(false);
});

test('a texture without its other half says which file is missing', async () => {
  const { archive, n } = await findWinner(id, colour);
  const { files } = await pictureOfEntry(archive, n);
  expect(await refused(pictureOfFiles(id, files[0]!, async () => undefined))).toMatchObject({
    code: 'volume-missing',
    expected: `${colour}far`,
  });
});
