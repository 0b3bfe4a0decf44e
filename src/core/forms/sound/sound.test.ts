import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { decodeIma, encodeIma, imaSamples } from './adpcm';
import { decodeSound, encodeSound, saySound, soundOfWav, soundPeaks, writeWav, type Sound } from './sound';
import { readWavFacts } from './wav';

const folder = mkdtempSync(join(tmpdir(), 'zl-sound-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** A voice-like sound: a tone with overtones that swells and fades. */
function voice(channels: number, frames = 22_050, rate = 22_050): Sound {
  const samples = new Int16Array(frames * channels);
  for (let i = 0; i < frames; i++)
    for (let channel = 0; channel < channels; channel++) {
      const t = i / rate;
      const tone = Math.sin(t * 1400 + channel) + 0.4 * Math.sin(t * 4200) + 0.2 * Math.sin(t * 9000);
      samples[i * channels + channel] = Math.round(9000 * tone * Math.sin(Math.min(1, t) * Math.PI));
    }
  return { rate, channels, samples };
}

const ffmpeg = (...args: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);
const raw = (path: string) => {
  ffmpeg('-i', path, '-f', 's16le', join(folder, 'out.raw'));
  const bytes = readFileSync(join(folder, 'out.raw'));
  return new Int16Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
};

/** Where two run apart, as far as both go; told, for thousands of samples make no message. */
function firstDifference(a: Int16Array, b: Int16Array): object | undefined {
  for (let i = 0; i < Math.min(a.length, b.length); i++) if (a[i] !== b[i]) return { i, own: a[i], theirs: b[i] };
  return a.length === 0 || b.length === 0 ? { own: a.length, theirs: b.length } : undefined;
}

/** How much louder a sound is than what was added to it, in decibels. */
function signalToNoise(given: Int16Array, got: Int16Array): number {
  let signal = 0;
  let noise = 0;
  for (let i = 0; i < given.length; i++) {
    signal += given[i]! ** 2;
    noise += (given[i]! - got[i]!) ** 2;
  }
  return 10 * Math.log10(signal / noise);
}

test.each([1, 2])('IMA ADPCM of %d channels is decoded sample for sample as ffmpeg decodes it', (channels) => {
  writeFileSync(join(folder, 'in.wav'), writeWav(voice(channels)));
  const path = join(folder, `ima-${channels}.wav`);
  ffmpeg('-i', join(folder, 'in.wav'), '-c:a', 'adpcm_ima_wav', path);
  const bytes = new Uint8Array(readFileSync(path));
  const own = soundOfWav(bytes, readWavFacts(bytes, 'ima.wav'), 'ima.wav')!;
  const theirs = raw(path);
  expect(firstDifference(own.samples, theirs)).toBeUndefined();
});

test.each([1, 2])('what is encoded in %d channels is decoded alike by ffmpeg, and as near as its own', (channels) => {
  const given = voice(channels);
  const block = 256 * channels;
  const bytes = encodeIma(given.samples, channels, block);
  const own = decodeIma(bytes, channels, block, 'a');
  // The header of a WAVE file with that codec.
  const head = Buffer.alloc(60);
  head.write('RIFF', 0, 'latin1');
  head.writeUInt32LE(52 + bytes.length, 4);
  head.write('WAVEfmt ', 8, 'latin1');
  head.writeUInt32LE(20, 16);
  head.writeUInt16LE(17, 20);
  head.writeUInt16LE(channels, 22);
  head.writeUInt32LE(given.rate, 24);
  head.writeUInt32LE(Math.round((given.rate * block) / imaSamples(block, channels)), 28);
  head.writeUInt16LE(block, 32);
  head.writeUInt16LE(4, 34);
  head.writeUInt16LE(2, 36);
  head.writeUInt16LE(imaSamples(block, channels), 38);
  head.write('fact', 40, 'latin1');
  head.writeUInt32LE(4, 44);
  head.writeUInt32LE(own.length / channels, 48);
  head.write('data', 52, 'latin1');
  head.writeUInt32LE(bytes.length, 56);
  const path = join(folder, `own-${channels}.wav`);
  writeFileSync(path, Buffer.concat([head, bytes]));
  const theirs = raw(path);
  expect(firstDifference(own, theirs)).toBeUndefined();
  writeFileSync(join(folder, 'in.wav'), writeWav(given));
  ffmpeg('-i', join(folder, 'in.wav'), '-c:a', 'adpcm_ima_wav', join(folder, 'theirs.wav'));
  expect(signalToNoise(given.samples, own)).toBeGreaterThan(
    signalToNoise(given.samples, raw(join(folder, 'theirs.wav'))) - 1,
  );
});

test('any samples come back from PCM as they were, and from ADPCM in whole blocks', () => {
  const samples = fc.array(fc.integer({ min: -32768, max: 32767 }), { minLength: 1, maxLength: 1200 });
  fc.assert(
    fc.property(samples, fc.constantFrom(1, 2), (values, channels) => {
      const sound = { rate: 8000, channels, samples: Int16Array.from([...values, ...values]) };
      const format = { codec: 'pcm-s16', rate: 8000, channels, block: 0, loop: undefined } as const;
      expect([...decodeSound(encodeSound(sound, format), format, 'a').samples]).toEqual([...sound.samples]);
      const wav = writeWav(sound, [1, 2]);
      expect([...soundOfWav(wav, readWavFacts(wav, 'a'), 'a')!.samples]).toEqual([...sound.samples]);
      const ima = { ...format, codec: 'ima-adpcm', block: 64 } as const;
      const packed = encodeSound(sound, ima);
      expect(packed.length % 64).toBe(0);
      const back = decodeSound(packed, ima, 'a').samples;
      expect(back.length / channels).toBe((packed.length / 64) * imaSamples(64, channels));
      // The first sample of each block stands as it is.
      expect(back[0]).toBe(sound.samples[0]);
    }),
    { numRuns: 60 },
  );
});

test('a block that is none says where, and a wrong key is thought of', () => {
  const bytes = new Uint8Array(256);
  bytes[2] = 99;
  expect(() => decodeIma(bytes, 1, 256, 'cue.adpcm')).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'codec-failed', offset: 2, found: '99' }) }),
  );
});

test('a loop is in the WAVE file, outlines reach from 0 to 1, and formats are said in words', () => {
  const wav = writeWav(voice(1, 100), [10, 90]);
  writeFileSync(join(folder, 'loop.wav'), wav);
  expect(raw(join(folder, 'loop.wav'))).toHaveLength(100);
  expect(Buffer.from(wav).indexOf('smpl')).toBe(244);
  const peaks = soundPeaks(voice(1), 8);
  expect(Math.max(...peaks)).toBeGreaterThan(0.3);
  expect(peaks[0]).toBeLessThan(peaks[4]!);
  const format = { codec: 'ima-adpcm', rate: 22_050, channels: 1, block: 256, loop: [0, 9] } as const;
  expect(saySound(format)).toBe('IMA ADPCM, mono, 22,050 Hz, played over and over');
});
