/** Meshes, films and records in one game: out, changed outside, back, and seen in the stand-in game. */
import { sayNote } from '../../src/core/notes';
import { execFileSync } from 'node:child_process';
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { WebIO } from '@gltf-transform/core';
import sharp from 'sharp';
import { writeHold } from '../../demo/archives/hold';
import { gameKey } from '../../demo/make-game';
import { BuildModel } from '../../src/server/database';
import {
  addIncomingFile,
  choicesOf,
  convertIncomingFile,
  fitAgain,
  listIncomingFiles,
  listChanges,
  changeSubject,
  newDrop,
  setUndone,
  startBringIn,
  takeChange,
} from '../../src/server/changes';
import { compareEntries, entryDetails, glancesAt, thumbnail } from '../../src/server/entries';
import { findWinner } from '../../src/server/content';
import { filmFile, filmFilePath, filmSource, filmSubtitles, fitFilmFile } from '../../src/server/forms/film';
import { env } from '../../src/server/env';
import { entrySubject } from '../../src/server/forms';
import { addGame, addKey } from '../../src/server/games';
import { startBuild } from '../../src/server/put-back';
import { listRecipes, saveRecipe } from '../../src/server/recipes';
import {
  listRecords,
  listRecordTables,
  setReference,
  setTileMap,
  startRecords,
  tileMapOf,
  tileMapPicture,
  whereIs,
} from '../../src/server/records';
import { setCell } from '../../src/server/changes';
import { recordsQuery, type FilmOptions } from '../../src/server/shapes';
import { blobPath } from '../../src/server/storage';
import { editTray, startTakeOut } from '../../src/server/take-out';
import { ended, fault, freshGame, games, key, once, openedGame, settled, withWorker } from './support';
import { fit, modelOf } from './subjects';

withWorker();

let id: number;
beforeAll(async () => {
  ({ id } = await openedGame('further-forms'));
  await ended((await addKey(id, gameKey('1.4.1', 'reel').toString('hex'))).id);
  await settled(id);
});

const drop = (path: string, fileName: string, bytes: Uint8Array) => takeChange(id, { path, fileName, bytes });
const CRANE = 'models/crane/crane.mesh';

async function takeOut(paths: readonly string[], order: Record<string, unknown>) {
  await editTray(id, { add: [...paths], remove: [], clear: true });
  const to = join(games, 'further-forms-out');
  const run = await ended((await startTakeOut(id, { to, ...order })).id);
  return { to, run, log: run.log.map(({ text }: { text: string }) => text) };
}

/** What the stand-in game shows of an entry, as it was and as it is. */
async function seen(path: string) {
  expect((await ended((await startBuild(id, 'keep')).id)).result).toMatchObject({ started: true });
  const [build] = await BuildModel.findAll({ where: { gameId: id }, order: [['id', 'DESC']], limit: 1 });
  const shown = build!.report!.shown.find((one) => one.path === path)!;
  const pixels = (blob: string) =>
    sharp(readFileSync(blobPath(blob)))
      .raw()
      .toBuffer();
  return { build: build!, before: await pixels(shown.before!), after: await pixels(shown.blob) };
}

test('a mesh is told, seen, and laid beside a clip of it', async () => {
  const { archive, n } = await findWinner(id, CRANE);
  const { facts, expects } = await entryDetails(id, archive, n);
  expect(facts).toMatchObject({
    form: 'mesh',
    levels: [{ triangles: 220, from: 0 }, { triangles: 108 }, { triangles: 56 }],
    inspection: { shells: 5, closed: 5, holes: 0 },
    joints: ['base', 'mast', 'arm', 'hook'],
    clips: [{ name: 'lift' }, { name: 'turn' }],
    clip: null,
  });
  const textures = ['colour', 'normal'].map((name) => ({ path: `models/crane/crane_${name}.tex`, there: true }));
  expect(facts).toMatchObject({ materials: [{ textures }] });
  expect(expects).toContain('Joints of the same names: base, mast, arm, hook.');
  const { bytes } = await modelOf(await entrySubject(archive, n));
  const root = (await new WebIO().readBinary(bytes as Uint8Array<ArrayBuffer>)).getRoot();
  expect(root.listAnimations().map((clip) => clip.getName())).toEqual(['lift', 'turn']);
  expect(root.listMaterials()[0]!.getExtras()['textures']).toHaveLength(2);
  const clip = await findWinner(id, 'models/crane/turn.clip');
  expect((await entryDetails(id, clip.archive, clip.n)).facts).toMatchObject({ clip: { frames: 36, there: true } });
  const drawn = await sharp(await thumbnail(archive, n)).stats();
  expect(drawn.channels[1]!.stdev).toBeGreaterThan(10);
  expect(await glancesAt([[archive, n]])).toEqual([
    { summary: '220 triangles', shows: { is: 'thumbnail', webp: null } },
  ]);
  const box = await findWinner(id, 'models/post_box/post_box.mesh');
  const beside = await compareEntries({ game: id, archive, n }, { game: id, ...box });
  expect(beside.verdict).toContain('crane.mesh is the more detailed one: 220 and');
});

test('a mesh is written as glTF with clips and pictures, is changed by a script, comes back and hangs in the game', async () => {
  const { to, run } = await takeOut([CRANE], { meshes: 'glb' });
  expect(run.result).toMatchObject({ turned: 1, failures: [] });
  const io = new WebIO();
  const document = await io.readBinary(readFileSync(join(to, 'models/crane/crane.glb')) as Uint8Array<ArrayBuffer>);
  expect(document.getRoot().listTextures()).toHaveLength(2);
  // The crane is made taller.
  for (const mesh of document.getRoot().listMeshes())
    for (const primitive of mesh.listPrimitives()) {
      const positions = primitive.getAttribute('POSITION')!;
      const array = positions.getArray()!.slice();
      for (let i = 1; i < array.length; i += 3) array[i]! *= 1.5;
      positions.setArray(array);
    }
  const change = await drop(CRANE, 'crane.glb', await io.writeBinary(document));
  expect(change.fitNotes).toEqual([{ code: 'mesh-levels-made', triangles: [expect.any(Number), expect.any(Number)] }]);
  const shown = await seen(CRANE);
  expect(shown.before.equals(shown.after)).toBe(false);
  const model = await modelOf(await changeSubject(id, change.id, 'change'));
  expect(model.mime).toBe('model/gltf-binary');
  const kept = await ended((await fitAgain(id, change.id, { levels: 'kept' })).id);
  expect(kept.result).toMatchObject({ taken: 1 });
  const [now] = await listChanges(id);
  expect(now!.fitNotes).toEqual([{ code: 'mesh-levels-kept', count: 2 }]);
});

test('a clip comes back from glTF, and STL is one solid in millimetres', async () => {
  const clip = 'models/crane/lift.clip';
  const { to, run } = await takeOut([clip, 'models/post_box/post_box.mesh'], { meshes: 'glb', clips: 'none' });
  expect(run.result).toMatchObject({ turned: 2, failures: [] });
  const change = await drop(clip, 'lift.glb', readFileSync(join(to, 'models/crane/lift.glb')));
  expect(change.kind).toBe('mesh');
  const stl = await takeOut(['models/post_box/post_box.mesh'], { meshes: 'stl', solid: true, scale: 1000 });
  expect(stl.log.some((line) => line.includes('2 shells united into one closed solid'))).toBe(true);
  const bytes = readFileSync(join(stl.to, 'models/post_box/post_box.stl'));
  expect(bytes.length).toBe(84 + bytes.readUInt32LE(80) * 50);
});

test('a mesh in an open format takes one of another, turned into it', async () => {
  const { archive, n } = await findWinner(id, 'models/post_box/post_box.mesh');
  const { bytes: glb } = await modelOf(await entrySubject(archive, n));
  const obj = Buffer.from('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n');
  const fitted = (path: string, original: Uint8Array, name: string, given: Uint8Array) =>
    fit(path, original, given, name);
  const made = await fitted('props/a.glb', glb, 'mine.obj', obj);
  expect(made.notes).toEqual([{ code: 'mesh-converted', to: 'GLB' }]);
  expect(Buffer.from(made.bytes.subarray(0, 4)).toString()).toBe('glTF');
  expect((await fitted('props/a.obj', obj, 'b.obj', obj)).notes).toEqual([]);
  expect(await fault(fitted('props/a.obj', obj, 'b.png', Buffer.from('no mesh')))).toMatchObject({
    code: 'wrong-kind',
  });
});

test('what is no mesh, or hangs on joints the game does not have, is refused with words', async () => {
  expect(await fault(drop(CRANE, 'letter.obj', Buffer.from('Dear Ida,')))).toMatchObject({
    code: 'wrong-kind',
    what: 'there are no faces in it',
  });
  expect(await fault(drop(CRANE, 'crane.png', Buffer.from('\x89PNG\r\n\x1a\n', 'latin1')))).toMatchObject({
    code: 'wrong-kind',
    expected: 'GLB, glTF, OBJ, STL or PLY',
  });
});

const FIRST = 'film/pictures/000000.png';

/** A film of another length, with a tone of its own, made outside. */
function ownFilm(name: string, ...args: readonly string[]): Buffer {
  const file = join(games, name);
  const sources = [
    '-f',
    'lavfi',
    '-i',
    'testsrc=size=400x300:rate=25:duration=3',
    '-f',
    'lavfi',
    '-i',
    'sine=frequency=440:duration=3',
  ];
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...sources, ...args, file]);
  return readFileSync(file);
}
const probe = (file: string, what: string) =>
  execFileSync('ffprobe', ['-v', 'error', '-show_entries', what, '-of', 'csv=p=0', file], { encoding: 'utf8' })
    .trim()
    .split('\n');

const streamsOf = (facts: Awaited<ReturnType<typeof entryDetails>>['facts']) =>
  facts?.form === 'film' ? facts.streams.map(({ summary }) => summary) : [];

test('a film is told by any packet, and is written as MP4 with its subtitles, as other programs see it', async () => {
  const { archive, n } = await findWinner(id, FIRST);
  const { facts, kind, expects } = await entryDetails(id, archive, n);
  const picture = { width: 320, height: 180 };
  expect({ kind, facts }).toMatchObject({
    kind: 'film',
    facts: { form: 'film', seconds: expect.closeTo(4, 1), rate: 12, packet: { stream: 0, at: 0, picture } },
  });
  expect(streamsOf(facts)).toEqual([
    '48 pictures of 320 × 180, PNG, 12 a second',
    'Sound, pcm-s16, 22,050 Hz',
    ...['en', 'de', 'fr'].map((locale) => `2 subtitles, ${locale}`),
  ]);
  expect(expects[0]).toContain('only what yours brings is replaced');
  const { to, run } = await takeOut([FIRST, 'film/pictures/000083.png', 'film/sound/000000.pcm'], { films: 'mp4' });
  expect(run.result).toMatchObject({ turned: 1, within: 2, failures: [] });
  const file = join(to, 'scenes.mp4');
  expect(probe(file, 'stream=codec_name').sort()).toEqual(['aac', 'h264', 'mov_text', 'mov_text', 'mov_text']);
  expect(Number(probe(file, 'format=duration')[0])).toBeCloseTo(4, 0);
  expect(readFileSync(join(to, 'scenes.de.srt'), 'utf8')).toContain(
    '00:00:00,500 --> 00:00:02,000\nLetzte Kabine ins Tal.',
  );
});

test('a film is converted once for the page, and the subtitles are told', async () => {
  const { archive, n } = await findWinner(id, FIRST);
  const order = { as: 'webm', changed: false } as const;
  const first = await filmFile(id, archive, n, order);
  expect(first.ready).toBe(false);
  // Asked again, it is the same run.
  expect(await filmFile(id, archive, n, order)).toMatchObject({ run: { id: first.ready ? 0 : first.run.id } });
  if (!first.ready) expect((await ended(first.run.id)).state).toBe('done');
  expect(await filmFile(id, archive, n, order)).toMatchObject({ ready: true });
  const { file } = await filmFilePath(id, archive, n, order);
  expect(probe(file, 'stream=codec_name').sort()).toEqual(['vorbis', 'vp8']);
  const vtt = await filmSubtitles(id, archive, n, { as: 'vtt', stream: 2, changed: false });
  expect(vtt.startsWith('WEBVTT\n\n00:00:00.500 --> 00:00:02.000\n')).toBe(true);
});

test('a film of another size, rate and length comes in as the game keeps films, and the game plays it', async () => {
  const change = await drop(FIRST, 'scenes.webm', ownFilm('own.webm', '-c:v', 'libvpx', '-c:a', 'libvorbis'));
  expect(change.fitNotes.map(sayNote)).toEqual(
    expect.arrayContaining(['yours lasts 3.0 s, the original 4.0 s', '36 pictures of 320 × 180, 12 a second, PNG']),
  );
  const changes = (await listChanges(id)).filter(({ kind }) => kind === 'film');
  expect(changes.map(({ companions }) => companions.length + 1).sort((a, b) => a - b)).toEqual([16, 48]);
  await ended((await startBuild(id, 'keep')).id);
  const [build] = await BuildModel.findAll({ where: { gameId: id }, order: [['id', 'DESC']], limit: 1 });
  expect(build!.report).toMatchObject({ findings: [], started: true, film: { seconds: 3 } });
  const { archive, n } = await findWinner(id, FIRST);
  const seenAs = await filmSource(archive, n, true);
  expect(seenAs.is === 'packets' && seenAs.film.streams[0]!.packets.length).toBe(36);
});

test('new sound over the old picture, and new subtitles alone', async () => {
  for (const { id: one } of await listChanges(id)) await setUndone(id, one, true);
  const sound = await drop(
    'film/sound/000000.pcm',
    'music.mp3',
    ownFilm('music.mp3', '-map', '1:a', '-c:a', 'libmp3lame'),
  );
  expect(sound.fitNotes.map(sayNote)[0]).toContain('yours lasts 3.0 s, the original 4.0 s');
  expect([sound.path, ...sound.companions].every((path) => path.startsWith('film/sound/'))).toBe(true);
  const text = '1\n00:00:00,500 --> 00:00:01,500\nNeue Worte.\n\n2\n00:00:03,000 --> 00:00:03,800\nEnde.\n';
  const words = await drop(FIRST, 'scenes.de.srt', Buffer.from(text));
  expect(words.fitNotes[0]).toEqual({ code: 'film-subtitles', count: 2, locale: 'de', before: 2 });
  expect((await ended((await startBuild(id, 'keep')).id)).result).toMatchObject({ started: true });
  const { archive, n } = await findWinner(id, FIRST);
  const vtt = await filmSubtitles(id, archive, n, { as: 'vtt', stream: 3, changed: true });
  expect(vtt).toContain('00:00:03.000 --> 00:00:04.500\nEnde.');
});

test('a film with nothing to see or hear, subtitles that overlap or of no language are refused with words', async () => {
  expect(await fault(drop(FIRST, 'empty.mp4', Buffer.from('not a film')))).toMatchObject({
    what: 'there are neither pictures nor sound in it',
  });
  const two = (from: string) => `1\n00:00:01,000 --> 00:00:03,000\na\n\n2\n${from} --> 00:00:05,000\nb\n`;
  expect(await fault(drop(FIRST, 'scenes.en.srt', Buffer.from(two('00:00:02,000'))))).toMatchObject({
    what: 'subtitles overlap',
    line: 6,
  });
  expect(await fault(drop(FIRST, 'scenes.srt', Buffer.from(two('00:00:04,000'))))).toMatchObject({
    what: 'it does not say of which language it is',
    expected: 'one of en, de, fr',
  });
  const still = await drop(FIRST, 'voice.mp4', ownFilm('voice.mp4', '-map', '1:a', '-c:a', 'aac'));
  expect(still.fitNotes).toContainEqual({ code: 'film-only-sound' });
});

test('a film file gets the codecs, size and rate of the one it replaces, as large as is wished', async () => {
  ownFilm('was.mp4', '-c:v', 'libx264', '-b:v', '300k', '-c:a', 'aac', '-ar', '32000', '-ac', '1');
  const given = ownFilm('given.webm', '-vf', 'scale=640:480', '-c:v', 'libvpx', '-b:v', '2M', '-c:a', 'libvorbis');
  const fitted = async (file: Uint8Array, name: string, fitOptions: FilmOptions = {}) => {
    const { signal } = new AbortController();
    const given = join(games, `given-${name}`);
    writeFileSync(given, file);
    const was = join(games, 'was.mp4');
    const made = await fitFilmFile({ path: 'films/was.mp4', was, given, fileName: name, fitOptions, signal });
    cpSync(blobPath(made.blob.sha256), join(games, 'fitted.mp4'));
    return {
      ...made,
      streams: probe(join(games, 'fitted.mp4'), 'stream=codec_name,width,height,sample_rate,channels'),
    };
  };
  const like = await fitted(given, 'given.webm');
  expect(like.streams).toEqual(['h264,400,300', 'aac,32000,1']);
  const small = await fitted(given, 'given.webm', { megabytes: 0.1 });
  expect(small.blob.size).toBeLessThan(150_000);
  const sound = await fitted(ownFilm('new.wav', '-map', '1:a'), 'new.wav');
  const packets = (file: string) =>
    execFileSync('ffmpeg', ['-v', 'error', '-i', file, '-map', '0:v', '-c', 'copy', '-f', 'md5', '-'], {
      encoding: 'utf8',
    });
  expect(packets(join(games, 'fitted.mp4'))).toBe(packets(join(games, 'was.mp4')));
  expect(sound.notes[0]).toEqual({ code: 'film-sound', rate: 32_000, channels: 1, codec: 'aac' });
  const text = Buffer.from('1\n00:00:00,500 --> 00:00:01,500\nHello.\n');
  expect((await fitted(text, 'words.srt')).streams).toEqual([
    'h264,400,300',
    'aac,32000,1',
    expect.stringMatching(/^mov_text/),
  ]);
});

test('a film file inside an archive is told, has a poster, is converted for the page, and takes another', async () => {
  const folder = join(games, 'open-film');
  rmSync(folder, { recursive: true, force: true });
  freshGame(folder);
  ownFilm('intro.avi', '-c:v', 'mpeg4', '-q:v', '3', '-c:a', 'libmp3lame');
  const put = [
    'put',
    join(folder, 'core.hold'),
    '--key',
    `content=${key}`,
    '--how',
    'append',
    '--to',
    join(games, 'put'),
  ];
  execFileSync(join(env().checkout, 'bin/zero-latch'), [
    ...put,
    '--add',
    `films/intro.avi=${join(games, 'intro.avi')}`,
  ]);
  cpSync(join(games, 'put', 'core.hold'), join(folder, 'core.hold'));
  const { game, run } = await addGame({ folder });
  await ended(run.id);
  await ended((await addKey(game.id, key)).id);
  await settled(game.id);
  const { archive, n } = await findWinner(game.id, 'films/intro.avi');
  const { kind, facts } = await entryDetails(game.id, archive, n);
  expect({ kind, facts }).toMatchObject({
    kind: 'film',
    facts: { packet: null, direct: false, trouble: null, rate: 25, seconds: expect.closeTo(3, 0) },
  });
  expect(streamsOf(facts)).toEqual(['Pictures of 400 × 300, mpeg4, 25 a second', 'Sound, mp3, 44,100 Hz, mono']);
  expect((await sharp(await thumbnail(archive, n)).stats()).channels[0]!.stdev).toBeGreaterThan(20);
  expect(await glancesAt([[archive, n]])).toEqual([
    { summary: expect.stringMatching(/^3\.\d s$/), shows: { is: 'thumbnail', webp: null } },
  ]);
  const order = { as: 'webm', changed: false } as const;
  const made = await filmFile(game.id, archive, n, order);
  if (!made.ready) expect((await ended(made.run.id)).state).toBe('done');
  const { file } = await filmFilePath(game.id, archive, n, order);
  expect(probe(file, 'stream=codec_name').sort()).toEqual(['vorbis', 'vp8']);
  const given = ownFilm('new.webm', '-vf', 'scale=640:480', '-c:v', 'libvpx', '-c:a', 'libvorbis');
  const change = await takeChange(game.id, { path: 'films/intro.avi', fileName: 'new.webm', bytes: given });
  expect(change.fitNotes).toContainEqual({ code: 'film-pictures', size: [400, 300], rate: 25, codec: 'mpeg4' });
});

const PACKET_FILM = `
recipe: packet-film
title: Packet film
revision: 1
numbers: little
match: { at: 0, bytes: FLM1 }
shapes:
  header:
    - { field: magic, as: ascii(4), must: FLM1 }
    - { field: count, as: u32, is: count(entries) }
  stream:
    - { field: codec, as: ascii(8) }
  packet:
    - { field: time, as: u32, new: digits(entry.name) }
    - { field: size, as: u32, is: length(body) }
    - { field: body, as: data(size) }
regions:
  - { region: head, at: 0, holds: header }
  - { region: streams, at: 8, holds: 'stream[1]' }
  - { region: packets, at: 16, holds: 'packet[head.count]', sort: time }
presents: archive
entries:
  each: packet in packets
  path: '"clip/" + decimal(packet.time, 6) + ".bin"'
  size: packet.size
  film:
    stream: 0
    time: packet.time
    streams: { each: stream in streams, is: '"pictures"', codec: stream.codec, rate: 12, width: 128, height: 96, folder: '"clip"', ending: '".bin"' }
`;

test.each([
  ['h264', ['-c:v', 'libx264', '-bf', '0', '-preset', 'veryfast']],
  ['mpeg2', ['-c:v', 'mpeg2video', '-bf', '0']],
  [
    'vp9',
    ['-c:v', 'libvpx-vp9', '-lag-in-frames', '0', '-auto-alt-ref', '0', '-deadline', 'realtime', '-cpu-used', '8'],
  ],
  ['jpeg', ['-c:v', 'mjpeg']],
])(
  'packets of %s are seen, go out, and another film comes in as such, once it is said how',
  async (codec, args) => {
    const folder = join(games, `packets-${codec}`);
    rmSync(folder, { recursive: true, force: true });
    mkdirSync(folder, { recursive: true });
    const source = ['-v', 'error', '-f', 'lavfi', '-i', 'testsrc2=size=128x96:rate=12:duration=2'];
    execFileSync('ffmpeg', [...source, ...args, '-pix_fmt', 'yuv420p', '-f', 'image2', join(folder, 'p-%04d.bin')]);
    const names = readdirSync(folder).sort();
    const packets = names.map((name, i) => ({
      time: Math.round((i * 1000) / 12),
      bytes: readFileSync(join(folder, name)),
    }));
    for (const name of names) rmSync(join(folder, name));
    const head = Buffer.alloc(16);
    head.write('FLM1', 0);
    head.writeUInt32LE(packets.length, 4);
    head.write(codec, 8);
    const rows = packets.flatMap(({ time, bytes }) => {
      const row = Buffer.alloc(8);
      row.writeUInt32LE(time, 0);
      row.writeUInt32LE(bytes.length, 4);
      return [row, bytes];
    });
    writeFileSync(join(folder, 'clip.flm'), Buffer.concat([head, ...rows]));
    // The first of these has brought it.
    if ((await listRecipes()).every(({ id: one }) => one !== 'packet-film')) await saveRecipe(PACKET_FILM);
    const { game, run } = await addGame({ folder });
    await ended(run.id);
    const { archive, n } = await findWinner(game.id, 'clip/000000.bin');
    const order = { as: 'mp4', changed: false } as const;
    const out = async (changed: boolean) => {
      const made = await filmFile(game.id, archive, n, { ...order, changed });
      if (!made.ready) expect((await ended(made.run.id)).state).toBe('done');
      return (await filmFilePath(game.id, archive, n, { ...order, changed })).file;
    };
    const frames = (file: string) => Number(probe(file, 'stream=nb_frames').join(''));
    expect(frames(await out(false))).toBe(24);
    // Another film waits until it is said how it is converted.
    const { id: dropId } = await newDrop(game.id);
    const bytes = ownFilm('given.mp4', '-c:v', 'libx264', '-preset', 'veryfast', '-c:a', 'aac');
    const { id: incomingFile } = await addIncomingFile(game.id, dropId, { name: 'clip.mp4', bytes: once(bytes) });
    await ended((await startBringIn(game.id, dropId)).id);
    expect((await listIncomingFiles(game.id)).rows).toMatchObject([{ id: incomingFile, state: 'needsOptions' }]);
    const choices = await choicesOf(game.id, dropId, incomingFile);
    expect(choices).toMatchObject({ codec, rate: 12, seconds: expect.closeTo(3, 0), sound: true });
    expect(choices.sizes.small).toBeLessThan(choices.sizes.fine);
    await convertIncomingFile(game.id, dropId, incomingFile, { quality: 'even', keyframes: 6 });
    await ended((await startBringIn(game.id, dropId)).id);
    const [change] = await listChanges(game.id);
    const notes = change!.fitNotes.map(sayNote).join();
    expect(notes).toContain(`36 pictures of 128 × 96, 12 a second, ${codec.toUpperCase()}`);
    expect(notes).toMatch(codec === 'jpeg' ? /-q:v 4/ : /-g 6/);
    expect(frames(await out(true))).toBe(36);
    const built = await ended((await startBuild(game.id, 'keep')).id);
    expect(built.state).toBe('done');
  },
  60_000,
);

describe('records', () => {
  const TIMES = 'stations/station_*/timetable.json';
  const tables = async () => (await listRecordTables(id)).tables;
  const tableOf = async (name: string) => (await tables()).find((one) => one.name === name)!;
  const rows = async (name: string, query: object = {}) =>
    listRecords(id, recordsQuery.parse({ table: (await tableOf(name)).id, ...query }));

  beforeAll(async () => {
    for (const { id: one, undone } of await listChanges(id)) if (!undone) await setUndone(id, one, true);
    expect((await listRecordTables(id)).known).toBe(false);
    expect((await ended((await startRecords(id)).id)).result).toMatchObject({ tables: expect.any(Number) });
  });

  test('files that are alike are one table, sorted and looked through', async () => {
    const found = await tables();
    expect(found.map(({ name, rows: count }) => [name, count])).toEqual(
      expect.arrayContaining([
        ['parcels/parcel_*.json', 60],
        [TIMES, 16],
        ['scenes/title.json', 1],
      ]),
    );
    const parcels = found.find(({ name }) => name === 'parcels/parcel_*.json')!;
    expect(parcels.columns.find(({ name }) => name === 'grams')).toMatchObject({ kind: 'whole', empty: 0 });
    const heavy = await rows('parcels/parcel_*.json', { sort: 'grams', order: 'down', limit: 3 });
    const grams = heavy.rows.map(({ values }) => Number(values['grams']));
    expect(grams).toEqual([...grams].sort((a, b) => b - a));
    expect(grams[0]).toBe(parcels.columns.find(({ name }) => name === 'grams')!.high);
    const clocks = await rows('parcels/parcel_*.json', { search: 'a clock' });
    expect(clocks.total).toBeGreaterThan(0);
    expect(clocks.rows.every(({ values }) => values['holds'] === 'a clock')).toBe(true);
  });

  test('where a switch is read is told over the whole game, and each place is one step away', async () => {
    const [first] = (await rows(TIMES)).rows;
    const wanted = String((first!.values['switches'] as number[])[0]);
    const where = await whereIs(id, wanted);
    const field = where.fields.find((one) => one.field === 'switches')!;
    expect(field.name).toBe(TIMES);
    const there = await listRecords(id, recordsQuery.parse({ table: field.table, column: 'switches', value: wanted }));
    expect(there.total).toBe(field.count);
    expect(there.rows.every(({ values }) => (values['switches'] as number[]).map(String).includes(wanted))).toBe(true);
    expect(await whereIs(id, 'no such thing')).toMatchObject({ total: 0, fields: [] });
  });

  test('a reference is declared, followed, and those that lead nowhere are told', async () => {
    const field = `${TIMES}#departures: to`;
    const to = 'parcels/parcel_*.json: to';
    expect(await setReference(id, { field, to })).toEqual([{ field, to, dangling: 0 }]);
    const [row] = (await rows(`${TIMES}#departures`)).rows;
    const table = (await tableOf(`${TIMES}#departures`)).id;
    const cell = { path: row!.path, pointer: [...row!.pointer], table, column: 'to' };
    expect(await fault(setCell(id, { ...cell, typed: 'Nowhere', anyway: false }))).toMatchObject({
      code: 'conflict',
      what: 'no row is called so',
      found: 'Nowhere',
    });
    const change = await setCell(id, { ...cell, typed: 'Nowhere', anyway: true });
    expect(change.fitNotes).toEqual([{ code: 'record-dangling', at: 'departures.0.to', value: 'Nowhere', to }]);
    expect((await rows(`${TIMES}#departures`)).rows[0]).toMatchObject({ changed: true, values: { to: 'Nowhere' } });
    expect(await fault(setReference(id, { field: 'a.json: b', to }))).toMatchObject({ code: 'not-found' });
    await setUndone(id, change.id, true);
  });

  test('a value is changed in its file and nothing else is, and the game shows it', async () => {
    const table = (await tableOf('scenes/title.json')).id;
    const cell = { path: 'scenes/title.json', pointer: [], table };
    const change = await setCell(id, { ...cell, column: 'caption', typed: 'tannoy.wind', anyway: false });
    await setCell(id, { ...cell, column: 'language', typed: 'de', anyway: false });
    const [now] = (await rows('scenes/title.json')).rows;
    expect(now!.values).toMatchObject({ caption: 'tannoy.wind', language: 'de', tannoy: 'tannoy/doors_closing.wav' });
    expect(change.matchedBy).toEqual({ code: 'typed', in: 'records' });
    await ended((await startBuild(id, 'keep')).id);
    const [build] = await BuildModel.findAll({ where: { gameId: id }, order: [['id', 'DESC']], limit: 1 });
    expect(build!.report).toMatchObject({
      started: true,
      scene: { caption: 'Langsame Fahrt wegen Wind.', language: 'de' },
    });
    const parcels = (await tableOf('parcels/parcel_*.json')).id;
    const [parcel] = (await rows('parcels/parcel_*.json')).rows;
    const grams = { path: parcel!.path, pointer: [], table: parcels, column: 'grams', anyway: false };
    expect(await fault(setCell(id, { ...grams, typed: 'heavy' }))).toMatchObject({
      code: 'wrong-kind',
      field: 'grams',
      expected: 'a whole number',
    });
  });
});

test('a map of tile layers is guessed, declared once for files that are alike, and drawn', async () => {
  const folder = join(games, 'tile-maps');
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  // Four tiles of 8 pixels: red, green, blue, and one that is not seen.
  const colours = [
    [255, 0, 0, 255],
    [0, 255, 0, 255],
    [0, 0, 255, 255],
    [0, 0, 0, 0],
  ];
  const pixels = Buffer.concat(
    Array.from({ length: 16 * 16 }, (_, i) =>
      Buffer.from(colours[Math.floor(i / 128) * 2 + Math.floor((i % 16) / 8)]!),
    ),
  );
  const tiles = await sharp(pixels, { raw: { width: 16, height: 16, channels: 4 } })
    .png()
    .toBuffer();
  const map = (data: readonly number[]) =>
    Buffer.from(
      JSON.stringify({
        width: 3,
        height: 1,
        layers: [
          { name: 'ground', data },
          { name: 'roof', data: [0, 3, 0] },
        ],
      }),
    );
  const entries = [
    { path: 'maps/yard_01.json', bytes: map([1, 1, 2]) },
    { path: 'maps/yard_02.json', bytes: map([2, 2, 9]) },
    { path: 'maps/yard_03.json', bytes: map([2, 2]) },
    { path: 'maps/tiles.png', bytes: tiles },
  ];
  const built = { key: gameKey('1.4.1', 'content'), release: 'maps', built: 1 };
  writeFileSync(join(folder, 'core.hold'), writeHold(entries, built));
  const { game, run } = await addGame({ folder });
  await ended(run.id);
  await ended((await addKey(game.id, key)).id);
  const of = async (path: string) => {
    const { archive, n } = await findWinner(game.id, path);
    return [game.id, archive, n] as const;
  };
  const yard = await of('maps/yard_01.json');
  const { guess, rule } = await tileMapOf(...yard);
  expect(rule).toBeNull();
  expect(guess).toEqual({ width: '/width', height: '/height', layers: '/layers', data: '/data', name: '/name' });
  const edit = { ...guess!, tiles: { picture: 'maps/tiles.png', width: 8, height: 8, first: 1 } };
  const nowhere = { ...edit, tiles: { ...edit.tiles, picture: 'maps/no.png' } };
  expect(await fault(setTileMap(...yard, nowhere))).toMatchObject({ code: 'no-such-entry' });
  expect(await setTileMap(...yard, edit)).toMatchObject({ map: { width: 3, height: 1, layers: ['ground', 'roof'] } });
  const pixelsOf = async (path: string, layers?: readonly number[]) => {
    const { data, info } = await sharp((await tileMapPicture(...(await of(path)), layers)).bytes)
      .raw()
      .toBuffer({ resolveWithObject: true });
    return [0, 1, 2].map((i) => [
      ...data.subarray((4 * info.width + 8 * i + 4) * 4, (4 * info.width + 8 * i + 4) * 4 + 4),
    ]);
  };
  const [red, green, blue, nothing] = colours;
  expect(await pixelsOf('maps/yard_01.json')).toEqual([red, blue, green]);
  expect(await pixelsOf('maps/yard_01.json', [0])).toEqual([red, red, green]);
  // Another file of the kind is read the same way; a number without a tile is nothing.
  expect(await pixelsOf('maps/yard_02.json')).toEqual([green, blue, nothing]);
  expect(await tileMapOf(...(await of('maps/yard_03.json')))).toMatchObject({
    map: null,
    trouble: expect.stringContaining('3 tiles, 3 × 1'),
  });
  expect(await setTileMap(...yard, null)).toMatchObject({ rule: null });
  expect(await fault(tileMapPicture(...yard, undefined))).toMatchObject({ code: 'not-found' });
});
