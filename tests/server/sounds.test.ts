/** Sounds without a header, as the archive tells of them: heard, taken out, replaced, and accepted by the game. */
import { sayNote } from '../../src/core/notes';
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gameKey } from '../../demo/make-game';
import { collect } from '../../src/core/bytes';
import { loudness, readWavFacts, soundOfWav, writeWav, type Sound } from '../../src/core/forms/sound';
import { bringAlso, fitAgain, listChanges, otherLanguages, takeChange } from '../../src/server/changes';
import { entryDetails, glancesAt, listEntries } from '../../src/server/entries';
import { entrySubject, streamedSound } from '../../src/server/forms';
import { addKey } from '../../src/server/games';
import { BuildModel } from '../../src/server/database';
import { startBuild } from '../../src/server/put-back';
import { entryQuery } from '../../src/server/shapes';
import { blobPath } from '../../src/server/storage';
import { editTray, startTakeOut } from '../../src/server/take-out';
import { ended, games, openedGame, settled, withWorker } from './support';
import { soundOfEntry, wavOfChange, wavOfEntry } from './subjects';

withWorker();

let id: number;
let cues: readonly { archive: number; n: number; path: string }[];
beforeAll(async () => {
  ({ id } = await openedGame('sounds'));
  await ended((await addKey(id, gameKey('1.4.1', 'voices').toString('hex'))).id);
  await settled(id);
  cues = (await listEntries(id, entryQuery.parse({ search: 'voices/en/cue', limit: 500 }))).rows;
});

const drop = (path: string, fileName: string, bytes: Uint8Array) => takeChange(id, { path, fileName, bytes });
function tone(seconds: number, rate: number, channels = 1): Sound {
  const samples = new Int16Array(Math.round(seconds * rate) * channels);
  samples.forEach((_, i) => (samples[i] = Math.round(8000 * Math.sin((Math.floor(i / channels) / rate) * 2764))));
  return { rate, channels, samples };
}
const refused = (work: Promise<unknown>) =>
  work.then(
    () => undefined,
    (error: { fault: { code: string; what?: string } }) => error.fault,
  );
/** The first cue of a codec, with or without a loop. */
async function cueOf(ending: string, loops: boolean) {
  for (const cue of cues) {
    if (!cue.path.endsWith(ending)) continue;
    const found = await soundOfEntry(cue.archive, cue.n);
    if ((found.format.loop !== undefined) === loops) return { ...cue, ...found };
  }
  throw new Error(`there is no such cue ${ending}`);
}

test('cues are sounds: with their codec, their length, their outline, and as WAVE for the ear', async () => {
  const { archive, n, sound } = await cueOf('.adpcm', false);
  const details = await entryDetails(id, archive, n);
  expect(details).toMatchObject({
    kind: 'sound',
    facts: { form: 'sound', summary: 'IMA ADPCM, mono, 22,050 Hz', loop: null, direct: false },
  });
  expect(details.expects[0]).toBe('IMA ADPCM, mono, 22,050 Hz. Any sound file is converted to that.');
  const [glance] = await glancesAt([[archive, n]]);
  expect(glance).toEqual({
    summary: `${(sound.samples.length / 22_050).toFixed(1)} s`,
    shows: { is: 'peaks', peaks: expect.any(Array) },
  });
  const wav = await wavOfEntry(archive, n);
  // Heard from any place on, without all of it being decoded first.
  const streamed = (await streamedSound(await entrySubject(archive, n)))!;
  expect(streamed.size).toBe(wav.bytes.length);
  const stretch = await collect(streamed.chunks(1000, 5000));
  expect(Buffer.compare(stretch, wav.bytes.subarray(1000, 5000))).toBe(0);
  expect(
    Buffer.from(wav.bytes.subarray(44)).equals(
      Buffer.from(sound.samples.buffer, sound.samples.byteOffset, sound.samples.byteLength),
    ),
  ).toBe(true);
});

test('cues go out as FLAC, and are sample for sample what was decoded', async () => {
  const some = cues.slice(0, 6);
  await editTray(id, { add: some.map(({ path }) => path), remove: [], clear: true });
  const to = join(games, 'sounds-out');
  const run = await ended((await startTakeOut(id, { to, layout: 'folders', form: 'open', sounds: 'flac' })).id);
  expect(run.result).toMatchObject({ taken: 6, turned: 6, failures: [] });
  for (const { path, archive, n } of some) {
    const file = join(to, path.replace(/\.\w+$/, '.flac'));
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', file, '-f', 's16le', join(to, 'raw')]);
    const { sound } = await soundOfEntry(archive, n);
    expect(
      readFileSync(join(to, 'raw')).equals(
        Buffer.from(sound.samples.buffer, sound.samples.byteOffset, sound.samples.byteLength),
      ),
    ).toBe(true);
  }
});

test('a WAVE as the cue wants it goes in bit for bit; OGG and another rate are converted; the game loads both', async () => {
  const pcm = cues.find(({ path }) => path.endsWith('.pcm'))!;
  const length = (await soundOfEntry(pcm.archive, pcm.n)).sound.samples.length / 22_050 + 1;
  const given = tone(length, 22_050);
  const change = await drop(pcm.path, 'mine.wav', writeWav(given));
  expect(change.fitNotes).toEqual([]);
  expect(
    Buffer.from((await wavOfChange(id, change.id)).bytes.subarray(44, 44 + given.samples.byteLength)).equals(
      Buffer.from(given.samples.buffer),
    ),
  ).toBe(true);
  const adpcm = await cueOf('.adpcm', false);
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    'sine=440:duration=2:sample_rate=44100',
    '-ac',
    '2',
    '-c:a',
    'libvorbis',
    join(games, 'mine.ogg'),
  ]);
  const other = await drop(adpcm.path, 'mine.ogg', readFileSync(join(games, 'mine.ogg')));
  expect(other.fitNotes.map(sayNote)).toEqual([
    'converted from OGG to 22,050 Hz mono',
    'packed as IMA ADPCM, mono, 22,050 Hz',
  ]);
  expect((await ended((await startBuild(id, 'keep')).id)).result).toMatchObject({ started: true });
  // The game takes 20 seconds, and whole blocks.
  const long = await drop(adpcm.path, 'long.wav', writeWav(tone(25, 22_050)));
  expect(long.fitNotes.map(sayNote)[0]).toBe('cut to 19.99 s, the longest the game takes: yours lasts 25.00 s');
  const stereo = await drop('tannoy/call_09.wav', 'loud.wav', writeWav(tone(1, 48_000, 2)));
  expect(stereo.fitNotes.map(sayNote)).toEqual(['yours was 48,000 Hz stereo, converted to 22,050 Hz mono']);
  const round = await drop('tannoy/call_09.wav', 'round.wav', writeWav(tone(1, 22_050, 8)));
  expect(round.fitNotes.map(sayNote)).toEqual(['yours was 22,050 Hz 8 channels, converted to 22,050 Hz mono']);
  expect((await ended((await startBuild(id, 'keep')).id)).result).toMatchObject({ started: true });
});

test('what is no sound, empty, or too short for its loop is refused, and nothing changes', async () => {
  const before = await listChanges(id);
  const looped = await cueOf('', true).catch(() => undefined);
  if (looped !== undefined)
    expect(await refused(drop(looped.path, 'short.wav', writeWav(tone(0.01, 22_050))))).toMatchObject({
      code: 'wrong-kind',
      what: 'the sound is too short for the loop of the original',
    });
  expect(looped).toBeDefined();
  expect(await refused(drop(cues[0]!.path, 'empty.wav', writeWav(tone(0, 22_050))))).toMatchObject({
    what: 'the sound is 0 seconds long',
  });
  expect(await refused(drop(cues[0]!.path, 'words.mp3', Buffer.from('only words')))).toMatchObject({
    code: 'wrong-kind',
  });
  // A list that names another file is no sound, and what it names is not opened.
  const list = Buffer.from(`#EXTM3U\n#EXTINF:1,\n${join(games, 'mine.ogg')}\n#EXT-X-ENDLIST\n`);
  expect(await refused(drop(cues[0]!.path, 'list.mp3', list))).toMatchObject({ code: 'wrong-kind' });
  expect(await listChanges(id)).toEqual(before);
});

test('a cue is made as loud as the original when that is asked, and comes to the other languages', async () => {
  const { path, sound } = await cueOf('.adpcm', false);
  const quiet = { ...tone(2, 22_050), samples: tone(2, 22_050).samples.map((value) => value >> 4) };
  const change = await drop(path, 'quiet.wav', writeWav(quiet));
  const louder = await ended((await fitAgain(id, change.id, { loudness: true })).id);
  expect(louder.result).toMatchObject({ taken: 1, left: 0 });
  const [now] = await listChanges(id);
  expect(now!.fitNotes.map(sayNote).join()).toMatch(/made as loud as the original: \+\d/);
  const wav = (await wavOfChange(id, now!.id)).bytes;
  const heard = soundOfWav(wav, readWavFacts(wav, 'a'), 'a')!;
  expect(Math.abs(loudness(heard) - loudness(sound))).toBeLessThan(1);
  const others = await otherLanguages(id, path);
  expect(others.map((one) => one.path)).toEqual(['de', 'fr'].map((locale) => path.replace('/en/', `/${locale}/`)));
  const also = await ended(
    (
      await bringAlso(
        id,
        now!.id,
        others.map((one) => one.path),
      )
    ).id,
  );
  expect(also.result).toMatchObject({ taken: 2, left: 0 });
  expect((await otherLanguages(id, path)).every(({ changed }) => changed)).toBe(true);
});

test('a loop of a file goes into the row of the cue, at the rate of the game', async () => {
  const cue = await cueOf('.pcm', true);
  const given = tone(3, 44_100);
  const change = await drop(cue.path, 'looped.wav', writeWav(given, [4_410, 88_200]));
  expect(change.fitNotes).toContainEqual({ code: 'sound-loop-taken', loop: [0.1, 2] });
  const heard = await wavOfChange(id, change.id);
  expect(readWavFacts(heard.bytes, 'a').loop).toEqual([2_205, 44_100]);
  expect((await ended((await startBuild(id, 'keep')).id)).result).toMatchObject({ started: true });
  const [build] = await BuildModel.findAll({ where: { gameId: id }, order: [['id', 'DESC']], limit: 1 });
  const table = readFileSync(blobPath(build!.files.find(({ name }) => name === 'voices.cue')!.sha256));
  const number = Number(/(\d+)\.pcm$/.exec(cue.path)![1]);
  const row = [...Array((table.length - 24) / 28).keys()]
    .map((i) => 24 + i * 28)
    .find((at) => table.readUInt32LE(at) === number)!;
  expect([table.readUInt32LE(row + 12), table.readUInt32LE(row + 16)]).toEqual([2_205, 44_100]);
});
