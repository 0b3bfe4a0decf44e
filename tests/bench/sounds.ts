/** A thousand cues to WAVE, against ffmpeg decoding the same in one file. */
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { announcement, SAMPLE_RATE } from '../../demo/assets/sounds';
import { randomFor } from '../../demo/assets/random';
import { encodeSound, readWavFacts, soundAsWav, writeWav, type SoundFormat } from '../../src/core/forms/sound';
import { say, seconds, type Row } from './table';

const MANY = 1000;

export async function measureSounds(work: string): Promise<Row[]> {
  const samples = announcement(randomFor('bench'));
  const format: SoundFormat = { codec: 'ima-adpcm', rate: SAMPLE_RATE, channels: 1, block: 256, loop: undefined };
  const cue = encodeSound({ rate: SAMPLE_RATE, channels: 1, samples }, format);
  const ours = await seconds(() => {
    for (let i = 0; i < MANY; i++) soundAsWav(cue, format, 'cue');
  });
  const all = new Int16Array(samples.length * MANY);
  for (let i = 0; i < MANY; i++) all.set(samples, i * samples.length);
  const [plain, packed, out] = ['plain.wav', 'packed.wav', 'out.wav'].map((name) => join(work, name)) as [
    string,
    string,
    string,
  ];
  writeFileSync(plain, writeWav({ rate: SAMPLE_RATE, channels: 1, samples: all }));
  const quiet = ['-v', 'error', '-y', '-threads', '1'];
  execFileSync('ffmpeg', [...quiet, '-i', plain, '-c:a', 'adpcm_ima_wav', packed]);
  const theirs = await seconds(() => execFileSync('ffmpeg', [...quiet, '-i', packed, '-c:a', 'pcm_s16le', out]));
  const { seconds: length } = readWavFacts(new Uint8Array(readFileSync(plain)), 'plain.wav');
  return [
    {
      ...{ what: 'cues to WAVE', on: `${MANY.toLocaleString('en')} of IMA ADPCM, ${Math.round(length / 60)} minutes` },
      ...{ ours: say(ours), tool: 'ffmpeg, all in one file', theirs: say(theirs), ratio: theirs / ours, bar: '' },
    },
  ];
}
