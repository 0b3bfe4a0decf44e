import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { collect } from '../../bytes';
import { decodeIma, encodeIma, imaSamples } from './adpcm';
import { asLoudAs, loudness } from './loudness';
import { decodeMs, encodeMs } from './ms-adpcm';
import { soundsLikeNoise } from './noise';
import { PCM_CODECS, type PcmCodec } from './pcm';
import {
  decodeSound,
  encodeSound,
  saySound,
  soundAsWav,
  soundOfWav,
  soundPeaks,
  writeWav,
  type Sound,
  type SoundFormat,
} from './sound';
import { readWavFacts } from './wav';
import { wavStream } from './wav-stream';

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
      // The first sample of each block is as it is.
      expect(back[0]).toBe(sound.samples[0]);
    }),
    { numRuns: 60 },
  );
});

/** The recommendation word for word, in another language. */
const SUMS = `import struct, sys
from array import array
STEP = [int(n) for n in sys.argv[2].split()]
data = open(sys.argv[1], 'rb').read()
p, s = struct.unpack_from('<hB', data)
out = array('h', [p])
for byte in data[4:]:
    for c in (byte & 15, byte >> 4):
        step = STEP[s]
        d = step >> 3
        if c & 4: d += step
        if c & 2: d += step >> 1
        if c & 1: d += step >> 2
        p = max(-32768, min(32767, p - d if c & 8 else p + d))
        s = max(0, min(88, s + (-1, -1, -1, -1, 2, 4, 6, 8)[c & 7]))
        out.append(p)
sys.stdout.buffer.write(out.tobytes())`;
const STEP_TABLE =
  '7 8 9 10 11 12 13 14 16 17 19 21 23 25 28 31 34 37 41 45 50 55 60 66 73 80 88 97 107 118 130 143 157 173 190 209 ' +
  '230 253 279 307 337 371 408 449 494 544 598 658 724 796 876 963 1060 1166 1282 1411 1552 1707 1878 2066 2272 2499 ' +
  '2749 3024 3327 3660 4026 4428 4871 5358 5894 6484 7132 7845 8630 9493 10442 11487 12635 13899 15289 16818 18500 ' +
  '20350 22385 24623 27086 29794 32767';

test('IMA ADPCM by sums of shifts is decoded as the recommendation states it, and encoded nearer for it', () => {
  const each = imaSamples(256, 1);
  const all = voice(1).samples;
  // From the middle, where the sound is loud.
  const samples = all.subarray(20 * each, 21 * each);
  const block = encodeIma(all, 1, 256, 'sums').subarray(20 * 256, 21 * 256);
  const path = join(folder, 'sums.adpcm');
  writeFileSync(path, block);
  const theirs = execFileSync('python3', ['-c', SUMS, path, STEP_TABLE]);
  const own = decodeIma(block, 1, 256, 'a', 'sums');
  expect([...own]).toEqual([...new Int16Array(theirs.buffer, theirs.byteOffset, theirs.length / 2)]);
  expect(firstDifference(own, decodeIma(block, 1, 256, 'a'))).toBeDefined();
  expect(signalToNoise(samples, own)).toBeGreaterThan(signalToNoise(samples, decodeIma(block, 1, 256, 'a')));
});

test('a sound ends at its number of samples, whole and while it is read', async () => {
  const given = voice(2, 2_000);
  const format = {
    codec: 'ima-adpcm',
    rate: given.rate,
    channels: 2,
    block: 512,
    loop: undefined,
    length: 1234,
  } as const;
  const bytes = encodeSound(given, format);
  expect(decodeSound(bytes, format, 'a').samples).toHaveLength(2 * 1234);
  const wav = soundAsWav(bytes, format, 'a');
  expect(wav).toHaveLength(44 + 4 * 1234);
  const stream = wavStream(format, bytes.length, 'a');
  expect(stream.size).toBe(wav.length);
  const once = async function* () {
    yield bytes;
  };
  expect(Buffer.from(await collect(stream.chunks(once())))).toEqual(Buffer.from(wav));
  expect(Buffer.from(await collect(stream.chunks(once(), 4900)))).toEqual(Buffer.from(wav.subarray(4900)));
  const plain = { ...format, codec: 'pcm-s16', length: 100 } as const;
  expect(soundAsWav(encodeSound(given, plain), plain, 'a')).toHaveLength(44 + 400);
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

test.each([1, 2])(
  'MS ADPCM of %d channels is decoded as ffmpeg decodes it, and encoded as near as its own',
  (channels) => {
    const given = voice(channels);
    writeFileSync(join(folder, 'in.wav'), writeWav(given));
    const path = join(folder, `ms-${channels}.wav`);
    ffmpeg('-i', join(folder, 'in.wav'), '-c:a', 'adpcm_ms', path);
    const bytes = new Uint8Array(readFileSync(path));
    const facts = readWavFacts(bytes, 'ms.wav');
    const theirs = raw(path);
    expect(firstDifference(soundOfWav(bytes, facts, 'ms.wav')!.samples, theirs)).toBeUndefined();

    const coded = encodeMs(given.samples, channels, facts.block);
    const own = decodeMs(coded, channels, facts.block, 'own');
    // The same file with our blocks in it.
    const swapped = new Uint8Array(bytes.length);
    swapped.set(bytes);
    swapped.set(coded.subarray(0, facts.dataBytes), facts.dataAt);
    writeFileSync(path, swapped);
    expect(firstDifference(own, raw(path))).toBeUndefined();
    expect(signalToNoise(given.samples, own)).toBeGreaterThan(signalToNoise(given.samples, theirs) - 1);
  },
);

test('MS ADPCM of another codec says where it goes wrong', () => {
  expect(() => decodeMs(new Uint8Array(256).fill(9), 1, 256, 'a')).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'codec-failed', offset: 0, found: '9' }) }),
  );
});

const FFMPEG_NAMES: Readonly<Record<PcmCodec, string>> = {
  'pcm-u8': 'u8',
  'pcm-s16': 's16le',
  'pcm-s24': 's24le',
  'pcm-s32': 's32le',
  'pcm-f32': 'f32le',
};

test.each(Object.keys(PCM_CODECS) as PcmCodec[])('%s goes into WAVE byte for byte, and ffmpeg reads it so', (codec) => {
  const sound = voice(2, 999);
  const format: SoundFormat = { codec, rate: 22_050, channels: 2, block: 0, loop: [3, 900] };
  const bytes = encodeSound(sound, format);
  const wav = soundAsWav(bytes, format, 'a');
  const facts = readWavFacts(wav, 'a.wav');
  expect(facts.loop).toEqual([3, 900]);
  expect(Buffer.compare(wav.subarray(facts.dataAt, facts.dataAt + facts.dataBytes), bytes)).toBe(0);
  const path = join(folder, 'pcm.wav');
  writeFileSync(path, wav);
  const name = FFMPEG_NAMES[codec];
  ffmpeg('-i', path, '-f', name, '-c:a', `pcm_${name}`, join(folder, 'pcm.raw'));
  expect(Buffer.compare(readFileSync(join(folder, 'pcm.raw')), bytes)).toBe(0);
  const again = decodeSound(bytes, format, 'a').samples;
  expect(signalToNoise(sound.samples, again)).toBeGreaterThan(codec === 'pcm-u8' ? 10 : 90);
});

const CODECS = [...(Object.keys(PCM_CODECS) as PcmCodec[]), 'ima-adpcm', 'ms-adpcm'] as const;

function memoize<A, B, T>(work: (a: A, b: B) => T): (a: A, b: B) => T {
  const known = new Map<string, T>();
  return (a, b) => {
    const key = JSON.stringify([a, b]);
    if (!known.has(key)) known.set(key, work(a, b));
    return known.get(key)!;
  };
}

test('a sound that is made into WAVE while it is read is the same file, whole and in any stretch', async () => {
  const whole = voice(2, 40_000);
  // Packing takes most of the time, and is the same each time.
  const packedOf = memoize((codec: (typeof CODECS)[number], kind: number) => {
    const channels = kind === 0 ? 1 : 2;
    const loop = kind === 2 ? ([5, 90] as const) : undefined;
    const format: SoundFormat = { codec, rate: 22_050, channels, block: 72 * channels, loop };
    return { format, packed: encodeSound({ ...whole, channels }, format) };
  });
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom(...CODECS),
      fc.nat(2),
      fc.double({ min: 0, max: 1, noNaN: true }),
      fc.array(fc.integer({ min: 1, max: 90_000 }), { minLength: 1, maxLength: 5 }),
      fc.tuple(fc.double({ min: 0, max: 1, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true })),
      async (codec, kind, share, lengths, ends) => {
        const { format, packed } = packedOf(codec, kind);
        const bytes = packed.subarray(0, Math.floor(packed.length * share));
        const wanted = Buffer.from(soundAsWav(bytes, format, 'a cue'));
        const stream = wavStream(format, bytes.length, 'a cue');
        expect(stream.size).toBe(wanted.length);
        async function* inPieces() {
          for (let at = 0, i = 0; at < bytes.length; i++) {
            const length = lengths[i % lengths.length]!;
            yield bytes.subarray(at, at + length);
            at += length;
          }
        }
        const read = async (from?: number, to?: number) =>
          Buffer.from(await collect(stream.chunks(inPieces(), from, to)));
        expect((await read()).equals(wanted)).toBe(true);
        const [from, to] = ends.map((one) => Math.floor(one * wanted.length)).sort((a, b) => a - b) as [number, number];
        expect((await read(from, to)).equals(wanted.subarray(from, to))).toBe(true);
      },
    ),
    { numRuns: 60 },
  );
});

test('a sound is made as loud as another, and no louder than its peaks allow', () => {
  const loud = voice(1);
  const quiet = { ...loud, samples: loud.samples.map((value) => Math.round(value / 4)) };
  const { sound, decibels } = asLoudAs(quiet, loud);
  expect(decibels).toBeCloseTo(12.04, 1);
  expect(loudness(sound)).toBeCloseTo(loudness(loud), 1);
  const spiked = { ...quiet, samples: quiet.samples.with(5, 20_000) };
  expect(asLoudAs(spiked, loud).decibels).toBeCloseTo(20 * Math.log10(32_767 / 20_000), 2);
  expect(asLoudAs(quiet, { ...loud, samples: new Int16Array(900) }).decibels).toBe(0);
});

test('what is decoded with the wrong codec is told as noise, and what is heard is not', () => {
  const voiced = voice(1);
  // Breath and hiss, as a recording has them.
  const hiss = voiced.samples.map((value, i) => value + ((Math.imul(i + 1, 2_654_435_761) >>> 22) - 512));
  const spoken = { ...voiced, samples: hiss };
  const coded = encodeSound(spoken, {
    codec: 'ima-adpcm',
    rate: 22_050,
    channels: 1,
    block: 256,
    loop: undefined,
  });
  const wrong = decodeSound(coded, { codec: 'pcm-s16', rate: 22_050, channels: 1, block: 0, loop: undefined }, 'a');
  expect(soundsLikeNoise(wrong)).toBe(true);
  expect(soundsLikeNoise(spoken)).toBe(false);
  expect(soundsLikeNoise({ ...wrong, samples: wrong.samples.map((value) => value >> 4) })).toBe(false);
});
