import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { writeReel } from '../../demo/archives/reel';
import { film as demoFilm } from '../../demo/assets';
import { readReel } from '../../demo/stand-in/reel-reader';
import { bufferSource, collect, memoryScratch } from '../../src/core/bytes';
import { compileRecipe, openArchive, planRebuild, volumeBytes } from '../../src/core/recipe';
import {
  filmOf,
  packetPath,
  readSubtitles,
  withEnds,
  writeSrt,
  writeVtt,
  type Subtitle,
} from '../../src/core/forms/film';

const SALT = Buffer.alloc(16, 7);
const SECRET = Buffer.alloc(12, 9);
const REEL = compileRecipe(readFileSync(join(__dirname, '../../recipes/scene-reel.yaml'), 'utf8'));

async function reel() {
  const { streams, packets } = await demoFilm();
  const bytes = writeReel(streams, packets, SALT, SECRET);
  return {
    bytes,
    archive: await openArchive(REEL, bufferSource(bytes, 'scenes.reel'), { keys: new Map([['reel', SECRET]]) }),
  };
}

test('a film tells its streams, and what its packets are called', async () => {
  const { archive } = await reel();
  const film = filmOf(archive)!;
  expect(film.streams.map(({ is, codec, locale, packets }) => [is, codec, locale, packets.length])).toEqual([
    ['pictures', 'png', '', 48],
    ['sound', 'pcm-s16', '', 16],
    ['subtitles', 'utf-8', 'en', 2],
    ['subtitles', 'utf-8', 'de', 2],
    ['subtitles', 'utf-8', 'fr', 2],
  ]);
  expect(film.seconds).toBeCloseTo(4, 2);
  for (const { number, packets } of film.streams)
    for (const { n, time } of packets) expect(packetPath(archive, number, time)).toBe(archive.entries.path(n));
});

test('packets are added, gone and changed, and the game finds them in order, each under its own key', async () => {
  const { archive } = await reel();
  const film = filmOf(archive)!;
  const text = (value: string) => bufferSource(Buffer.from(value), 'text');
  const gone = new Set(film.streams[3]!.packets.map(({ n }) => n));
  const edits = {
    replace: new Map([[film.streams[2]!.packets[0]!.n, text('Mind the gap.')]]),
    add: [
      { path: packetPath(archive, 2, 3100), bytes: text('The last word.') },
      { path: packetPath(archive, 4, 0), bytes: text('Bonjour.') },
      { path: packetPath(archive, 0, 4000), bytes: text('a picture') },
    ],
    remove: gone,
  };
  const plan = await planRebuild(archive, edits, { scratch: memoryScratch() });
  const built = Buffer.from(await collect(volumeBytes(plan.volumes[0]!)));
  const streams = readReel('scenes.reel', built, SECRET);
  const told = (stream: number) => streams[stream]!.packets.map(({ time, bytes }) => [time, bytes.toString()]);
  expect(told(2)).toEqual([
    [500, 'Mind the gap.'],
    [2200, expect.any(String)],
    [3100, 'The last word.'],
  ]);
  expect(told(3)).toEqual([]);
  expect(told(4)[0]).toEqual([0, 'Bonjour.']);
  expect(streams[0]!.packets.at(-1)).toMatchObject({ time: 4000, bytes: Buffer.from('a picture') });
});

const someSubtitles = fc
  .array(
    fc.tuple(
      fc.integer({ min: 1, max: 5000 }),
      fc.integer({ min: 1, max: 5000 }),
      fc.stringMatching(/^[A-Za-zäé][A-Za-z .,é!?]{0,20}[a-z]$/),
    ),
    { minLength: 1, maxLength: 20 },
  )
  .map((parts) => {
    let at = 0;
    return parts.map(([gap, length, text]): Subtitle => {
      const from = at + gap;
      at = from + length;
      return { from, to: at, text };
    });
  });

test('subtitles come back from SRT and VTT as they were', () => {
  fc.assert(
    fc.property(someSubtitles, (subtitles) => {
      expect(readSubtitles(Buffer.from(writeSrt(subtitles)), 'a.srt')).toEqual(subtitles);
      expect(readSubtitles(Buffer.from(writeVtt(subtitles)), 'a.vtt')).toEqual(subtitles);
    }),
  );
});

test('what has no end stands until the next, or as long as the game lets it', () => {
  const texts = [
    { time: 0, text: 'a' },
    { time: 1000, text: 'b' },
  ];
  expect(withEnds(texts, 1500, 4000).map(({ to }) => to)).toEqual([1000, 2500]);
  expect(withEnds(texts, undefined, 4000).map(({ to }) => to)).toEqual([1000, 4000]);
});

test.each([
  ['overlap', '1\n00:00:01,000 --> 00:00:03,000\na\n\n2\n00:00:02,000 --> 00:00:04,000\nb\n', 6],
  ['ends before it begins', '1\n00:00:03,000 --> 00:00:01,000\na\n', 2],
  ['not in order', '1\n00:00:03,000 --> 00:00:04,000\na\n\n1\n00:00:01,000 --> 00:00:02,000\na\n', 6],
  ['no times', '1\nsoon --> later\na\n', 2],
])('subtitles that %s are refused with the line', (says, text, line) => {
  expect(() => readSubtitles(Buffer.from(text), 'a.srt')).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ line, what: expect.stringContaining(says) }) }),
  );
});

test('a text that is none, and one without subtitles', () => {
  const fault = (expected: object) => expect.objectContaining({ fault: expect.objectContaining(expected) });
  expect(() => readSubtitles(Uint8Array.of(0xff, 0xfe, 0x31), 'a.srt')).toThrow(fault({ expected: 'text in UTF-8' }));
  expect(() => readSubtitles(Buffer.from('Dear Ida'), 'a.srt')).toThrow(
    fault({ what: 'there are no subtitles in it' }),
  );
});
