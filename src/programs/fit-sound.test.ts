/** Sounds that take the place of files other programs made: coded as these are, by ffprobe's account. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { sayFault, type FormatError } from '../core/faults';
import { writeWav } from '../core/forms/sound';
import { fitSoundFile } from '.';

const folder = mkdtempSync(join(tmpdir(), 'zero-latch-fit-sound-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** A tone made by ffmpeg, as a file in a codec. */
function encoded(name: string, ...codec: string[]): Buffer {
  const from = ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'sine=440:duration=1:sample_rate=32000'];
  execFileSync('ffmpeg', [...from, ...codec, join(folder, name)]);
  return readFileSync(join(folder, name));
}

function probe(bytes: Uint8Array, name: string): { coding: string; seconds: number } {
  writeFileSync(join(folder, name), bytes);
  const what = [
    '-show_entries',
    'stream=codec_name,sample_rate,channels:format=format_name,duration',
    '-of',
    'csv=p=0',
  ];
  const [stream, format] = execFileSync('ffprobe', ['-v', 'error', ...what, join(folder, name)], { encoding: 'utf8' })
    .trim()
    .split('\n') as [string, string];
  const parts = format.split(',');
  return { coding: `${stream} in ${parts.slice(0, -1).join()}`, seconds: Number(parts.at(-1)) };
}

/** A second in stereo. */
const mine = writeWav({
  rate: 44_100,
  channels: 2,
  samples: Int16Array.from({ length: 88_200 }, (_, i) => Math.round(8000 * Math.sin((i >> 1) / 20))),
});

test.each([
  ['a.ogg', 'vorbis', ['-c:a', 'libvorbis']],
  ['a.opus', 'opus', ['-c:a', 'libopus', '-ar', '48000', '-f', 'ogg']],
  ['a.flac', 'flac', ['-c:a', 'flac']],
  ['b.ogg', 'flac', ['-c:a', 'flac']],
  ['a.mp3', 'mp3', ['-c:a', 'libmp3lame']],
  ['a.m4a', 'aac', ['-c:a', 'aac']],
  ['a.wv', 'wavpack', ['-c:a', 'wavpack']],
  ['a.aiff', 'pcm_s16be', ['-c:a', 'pcm_s16be']],
  ['b.aiff', 'pcm_s24be', ['-c:a', 'pcm_s24be']],
  ['a.au', 'pcm_s16be', ['-c:a', 'pcm_s16be']],
  ['a.voc', 'pcm_u8', ['-c:a', 'pcm_u8', '-ar', '11025']],
  ['b.wav', 'pcm_u8', ['-c:a', 'pcm_u8']],
  ['c.wav', 'pcm_s24le', ['-c:a', 'pcm_s24le']],
  ['d.wav', 'pcm_s32le', ['-c:a', 'pcm_s32le']],
  ['e.wav', 'pcm_f32le', ['-c:a', 'pcm_f32le']],
  ['f.wav', 'adpcm_ms', ['-c:a', 'adpcm_ms']],
  ['g.wav', 'adpcm_ima_wav', ['-c:a', 'adpcm_ima_wav']],
])('an original %s gets %s at its own rate, in its own container', async (name, codec, args) => {
  const original = encoded(name, ...args);
  const wanted = probe(original, `again-${name}`);
  const { bytes, notes } = await fitSoundFile(`sounds/${name}`, original, mine, 'mine.wav', {});
  const made = probe(bytes, `fitted-${name}`);
  expect(made.coding).toBe(wanted.coding);
  expect(Math.abs(made.seconds - 1)).toBeLessThan(0.1);
  expect(wanted.coding.startsWith(codec)).toBe(true);
  expect(notes.length).toBeGreaterThan(0);
  // What is like it already goes in as it is.
  expect((await fitSoundFile(`sounds/${name}`, original, bytes, name, {})).bytes).toBe(bytes);
});

test('a codec that a container is not written with is refused before anything is made', async () => {
  const original = encoded('a.mov', '-c:a', 'pcm_s16le');
  const fault = await fitSoundFile('sounds/a.mov', original, mine, 'mine.wav', {}).catch((error: unknown) => error);
  expect((fault as FormatError).fault).toMatchObject({
    ...{ code: 'wrong-kind', what: 'sounds of that kind are read and not written', expected: 'pcm_s16le in mov' },
  });
});

test('tracker music takes only a file of its kind, and says so', async () => {
  // A module of four channels with one empty pattern, as ProTracker lays it out.
  const tune = Buffer.alloc(1084 + 1024);
  tune.write('tune', 0);
  tune.writeUInt8(1, 950);
  tune.write('M.K.', 1080);
  const fault = await fitSoundFile('music/tune.mod', tune, mine, 'mine.wav', {}).catch((error: unknown) => error);
  expect(sayFault((fault as FormatError).fault)).toMatch(
    /the original is tracker music: notes, and samples that they play\. Only a file of the same kind.*expected \.mod/,
  );
});
