import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { mostSamples } from './sound';
import { cutTo, joinTracks, withoutSilence } from './trim';

const folder = mkdtempSync(join(tmpdir(), 'zl-trim-'));
afterAll(() => rmSync(folder, { recursive: true }));
const sound = (samples: number[], channels = 1) => ({ rate: 8000, channels, samples: Int16Array.from(samples) });

test('silence goes from both ends, in whole frames, and only silence stays', () => {
  expect([...withoutSilence(sound([0, 5, -3, 900, 0, 800, 2, 0])).samples]).toEqual([900, 0, 800]);
  expect([...withoutSilence(sound([0, 0, 0, 900, 800, 0, 0, 0], 2)).samples]).toEqual([0, 900, 800, 0]);
  expect([...withoutSilence(sound([1, 2, 3])).samples]).toEqual([1, 2, 3]);
});

test('joined sounds last as long as all of them, and the sheet says where each begins', () => {
  const seconds = (count: number) => sound(new Array<number>(8000 * count).fill(100));
  const { wav, cue } = joinTracks(
    [
      { title: 'doors "closing"', sound: seconds(1) },
      { title: 'wind', sound: seconds(62) },
      { title: 'snow', sound: seconds(1) },
    ],
    'all.wav',
  );
  writeFileSync(join(folder, 'all.wav'), wav);
  const show = ['-v', 'error', '-show_entries', 'format=duration', '-of', 'csv=p=0', join(folder, 'all.wav')];
  expect(Number(execFileSync('ffprobe', show, { encoding: 'utf8' }))).toBeCloseTo(64, 3);
  expect(cue.split('\r\n').slice(0, 7)).toEqual([
    'FILE "all.wav" WAVE',
    '  TRACK 01 AUDIO',
    `    TITLE "doors 'closing'"`,
    '    INDEX 01 00:00:00',
    '  TRACK 02 AUDIO',
    '    TITLE "wind"',
    '    INDEX 01 00:01:00',
  ]);
  expect(cue).toContain('INDEX 01 01:03:00');
});

test('a sound that is too long is cut where whole blocks end, and falls silent', () => {
  const long = sound(new Array<number>(3000).fill(8000), 2);
  const cut = cutTo(long, 1000);
  expect(cut.samples).toHaveLength(2000);
  expect([...cut.samples.slice(0, 2)]).toEqual([8000, 8000]);
  expect([...cut.samples.slice(-2)]).toEqual([0, 0]);
  const falls = [...cut.samples].filter((_, i) => i % 2 === 0).slice(-256);
  expect(falls).toEqual([...falls].sort((a, b) => b - a));
  expect(cutTo(long, 1500)).toBe(long);
  const format = { rate: 8000, channels: 1, block: 256, loop: undefined };
  expect(mostSamples({ ...format, codec: 'ima-adpcm', most: 1100 })).toBe(1010);
  expect(mostSamples({ ...format, codec: 'pcm-s16', most: 1100 })).toBe(1100);
  expect(mostSamples({ ...format, codec: 'pcm-s16' })).toBe(Infinity);
});
