/** A dropped sound as the game keeps the one it replaces: its codec, its rate, its channels. */
import { extname } from 'node:path';
import { FormatError } from '../core/faults';
import {
  asLoudAs,
  cutTo,
  checkNotEmpty,
  decodeSound,
  encodeSound,
  isPcm,
  mostSamples,
  pcmCodecOf,
  readWavFacts,
  saySound,
  sayWav,
  secondsOf,
  soundOfWav,
  writeWav,
  type PcmCodec,
  type Sound,
  type SoundFormat,
  type WavFacts,
} from '../core/forms/sound';
import { mimeOf } from '../core/game';
import type { Note } from '../core/notes';
import {
  encodedAs,
  isWritten,
  probeSound,
  samplesAs,
  soundByFfmpeg,
  TRACKER,
  waveAs,
  type SoundCoding,
  type SoundTarget,
} from './sound-codecs';

const isWave = (bytes: Uint8Array): boolean => mimeOf('', bytes.subarray(0, 16)) === 'audio/wav';

export interface SoundFitOptions {
  /** Made as loud as the original. */
  readonly loudness?: boolean | undefined;
}

export interface FittedSound {
  readonly bytes: Uint8Array;
  /** What was done to it; none when it went in unchanged. */
  readonly notes: readonly Note[];
  /** First and last sample of a loop of its own, which goes into the row of the entry. */
  readonly loop?: readonly [first: number, last: number] | undefined;
}

/** ffmpeg's names of plain samples. */
const PLAIN: Readonly<Record<PcmCodec, string>> = {
  'pcm-u8': 'u8',
  'pcm-s16': 's16le',
  'pcm-s24': 's24le',
  'pcm-s32': 's32le',
  'pcm-f32': 'f32le',
};

/**
 * A dropped file as a sound without a header. What has the same kind of samples goes in byte for byte.
 *
 * @param bytes those that are replaced
 * @param loopIsFree whether the row of the entry takes another loop
 * @throws FormatError `wrong-kind` when it is no sound, too short for the loop of the original, or 0 seconds long
 */
export async function fitCue(
  original: SoundFormat,
  bytes: Uint8Array,
  dropped: Uint8Array,
  fileName: string,
  { loudness = false, loopIsFree = false }: SoundFitOptions & { readonly loopIsFree?: boolean },
): Promise<FittedSound> {
  const facts = isWave(dropped) ? readWavFacts(dropped, fileName) : undefined;
  const loop = loopIsFree ? ownLoop(facts, original) : undefined;
  const made = await fitSamples(loop === undefined ? original : { ...original, loop }, bytes, dropped, fileName, {
    facts,
    loudness,
    notes: loopNote(facts, original, loop),
  });
  return { ...made, loop };
}

async function fitSamples(
  format: SoundFormat,
  original: Uint8Array,
  dropped: Uint8Array,
  fileName: string,
  { facts, loudness, notes }: { facts: WavFacts | undefined; loudness: boolean; notes: readonly Note[] },
): Promise<FittedSound> {
  const length = facts === undefined ? undefined : facts.seconds * facts.rate;
  if (facts !== undefined && isAlike(facts, format) && !loudness && length! <= mostSamples(format)) {
    const bytes = dropped.slice(facts.dataAt, facts.dataAt + facts.dataBytes);
    checkLength(decodeSound(bytes, format, fileName), format, fileName);
    return { bytes, notes };
  }
  const { sound: whole, notes: converted } = await soundFor(format, dropped, fileName);
  const sound = cutTo(whole, mostSamples(format));
  checkLength(sound, format, fileName);
  const like = loudness ? asLoudAs(sound, decodeSound(original, format, fileName)) : { sound, decibels: 0 };
  const made = [...converted, ...cutNote(whole, sound), ...notes, ...gainNote(like.decibels, loudness)];
  const stored = saySound({ ...format, loop: undefined });
  if (isPcm(format.codec) && format.codec !== 'pcm-s16') {
    // Wider samples than those of 16 bits stay as fine as they are.
    const plain = await samplesAs(dropped, fileName, PLAIN[format.codec], { ...format, gain: like.decibels });
    const frame = plain.length / (whole.samples.length / whole.channels);
    const bytes = sound === whole ? plain : plain.slice(0, Math.round(mostSamples(format) * frame));
    return { bytes, notes: [...made, { code: 'sound-written', format: stored }] };
  }
  const packed: Note[] = isPcm(format.codec) ? [] : [{ code: 'sound-packed', format: stored }];
  return { bytes: encodeSound(like.sound, format), notes: [...made, ...packed] };
}

function isAlike({ format, bits, rate, channels }: WavFacts, wanted: SoundFormat): boolean {
  return pcmCodecOf(format, bits) === wanted.codec && rate === wanted.rate && channels === wanted.channels;
}

function checkLength(sound: Sound, { loop, rate, channels }: SoundFormat, fileName: string): void {
  checkNotEmpty(sound, fileName);
  if (loop === undefined || sound.samples.length / channels > loop[1]) return;
  throw new FormatError({
    code: 'wrong-kind',
    file: fileName,
    what: 'the sound is too short for the loop of the original',
    expected: `more than ${(loop[1] / rate).toFixed(2)} s`,
    found: `${secondsOf(sound).toFixed(2)} s`,
    hint: 'Make it longer, with silence if need be.',
  });
}

/** What was left out of a sound that is longer than the game takes. */
const cutNote = (whole: Sound, cut: Sound): Note[] =>
  cut === whole ? [] : [{ code: 'sound-cut', seconds: secondsOf(cut), yours: secondsOf(whole) }];

/** The loop of a file of another rate, in the samples of the game; none where the game plays the sound once. */
function ownLoop(facts: WavFacts | undefined, { loop, rate }: SoundFormat): readonly [number, number] | undefined {
  if (facts?.loop === undefined || loop === undefined) return undefined;
  const [first, last] = facts.loop.map((sample) => Math.round((sample * rate) / facts.rate)) as [number, number];
  return first < last && (first !== loop[0] || last !== loop[1]) ? [first, last] : undefined;
}

/** What becomes of a loop of the file's own. */
function loopNote(facts: WavFacts | undefined, { loop, rate }: SoundFormat, taken: FittedSound['loop']): Note[] {
  if (facts?.loop === undefined) return [];
  const seconds = ([from, to]: readonly [number, number], of: number) =>
    [Math.round((from / of) * 100) / 100, Math.round((to / of) * 100) / 100] as const;
  const own = seconds(facts.loop, facts.rate);
  if (taken !== undefined) return [{ code: 'sound-loop-taken', loop: own }];
  if (loop === undefined) return [{ code: 'sound-loop-left-out', loop: own }];
  const kept = seconds(loop, rate);
  return own.join() === kept.join() ? [] : [{ code: 'sound-loop-left-out', loop: own, kept }];
}

const gainNote = (decibels: number, asked: boolean): Note[] => (asked ? [{ code: 'sound-gain', decibels }] : []);

/** ffmpeg's names of the codecs in WAVE, by format tag and bits. */
const WAVE_CODECS: Readonly<Record<string, string>> = {
  '1 8': 'pcm_u8',
  '1 16': 'pcm_s16le',
  '1 24': 'pcm_s24le',
  '1 32': 'pcm_s32le',
  '3 32': 'pcm_f32le',
  '3 64': 'pcm_f64le',
  '2 4': 'adpcm_ms',
  '17 4': 'adpcm_ima_wav',
};

/**
 * A dropped file as a sound file like the original: WAVE of any kind, or what ffmpeg writes in the same container.
 *
 * @throws FormatError `wrong-kind` when it is no sound, or the original is of a codec that nothing here writes
 */
export async function fitSoundFile(
  path: string,
  original: Uint8Array,
  dropped: Uint8Array,
  fileName: string,
  fitOptions: SoundFitOptions,
): Promise<FittedSound> {
  return isWave(original)
    ? fitWave(path, original, dropped, fileName, fitOptions)
    : fitEncoded(path, original, dropped, fileName, fitOptions);
}

async function fitWave(
  path: string,
  original: Uint8Array,
  dropped: Uint8Array,
  fileName: string,
  { loudness = false }: SoundFitOptions,
): Promise<FittedSound> {
  const wanted = readWavFacts(original, path);
  const given = isWave(dropped) ? readWavFacts(dropped, fileName) : undefined;
  if (given?.seconds === 0)
    throw new FormatError({ code: 'wrong-kind', file: fileName, what: 'the sound is 0 seconds long' });
  if (given !== undefined && sayWav(wanted) === sayWav(given) && !loudness) return { bytes: dropped, notes: [] };
  const codec = WAVE_CODECS[`${wanted.format} ${wanted.bits}`];
  if (codec === undefined) throw notWritten(path, fileName, { container: 'wav', codec: sayWav(wanted) });
  const { sound, notes: converted } = await soundFor(wanted, dropped, fileName);
  checkNotEmpty(sound, fileName);
  const before = loudness ? await soundByFfmpeg(original, path, wanted) : undefined;
  const like = before === undefined ? { sound, decibels: 0 } : asLoudAs(sound, before);
  const notes = [...converted, ...gainNote(like.decibels, loudness)];
  if (codec === 'pcm_s16le') return { bytes: writeWav(like.sound), notes };
  const blocks = codec.startsWith('adpcm') ? wanted.block : undefined;
  const bytes = await waveAs(dropped, fileName, codec, { ...rateOf(wanted), gain: like.decibels }, blocks);
  return { bytes, notes: [...notes, { code: 'sound-written', format: sayWav(wanted) }] };
}

async function fitEncoded(
  path: string,
  original: Uint8Array,
  dropped: Uint8Array,
  fileName: string,
  { loudness = false }: SoundFitOptions,
): Promise<FittedSound> {
  const [wanted, given] = await Promise.all([probeSound(original, path), probeSound(dropped, fileName)]);
  // The codec of the original is unknown, so the file goes in unchanged, as for entries of unknown format.
  if (wanted === undefined) return { bytes: dropped, notes: [{ code: 'sound-original-unknown' }] };
  if (given === undefined)
    throw new FormatError({ code: 'wrong-kind', file: fileName, entry: path, what: 'there is no sound in the file' });
  const sameCoding = given.codec === wanted.codec && given.container === wanted.container;
  const same = sameCoding && given.rate === wanted.rate && given.channels === wanted.channels;
  if (same && !loudness) return { bytes: dropped, notes: [] };
  if (!isWritten(wanted)) throw notWritten(path, fileName, wanted);
  const target = rateOf(wanted);
  const sound = await soundByFfmpeg(dropped, fileName, target);
  checkNotEmpty(sound, fileName);
  const gain = loudness ? asLoudAs(sound, await soundByFfmpeg(original, path, target)).decibels : 0;
  return {
    bytes: await encodedAs(dropped, fileName, wanted, { ...target, gain }),
    notes: [...gainNote(gain, loudness), { code: 'sound-converted', codec: wanted.codec.toUpperCase(), to: target }],
  };
}

const rateOf = ({ rate, channels }: SoundTarget) => ({ rate, channels });

function notWritten(entry: string, file: string, { codec, container }: SoundCoding): FormatError {
  const isTracker = container === TRACKER;
  return new FormatError({
    code: 'wrong-kind',
    file,
    entry,
    what: isTracker
      ? 'the original is tracker music: notes, and samples that they play. Only a file of the same kind can take its place'
      : 'sounds of that kind are read and not written',
    expected: isTracker ? extname(entry) : `${codec} in ${container}`,
    hint: 'Save yours in that format with a program that writes it.',
  });
}

/** The samples of a file at a rate and with channels: as they are where they fit, by ffmpeg otherwise. */
async function soundFor(
  { rate, channels }: Pick<SoundFormat, 'rate' | 'channels'>,
  bytes: Uint8Array,
  fileName: string,
): Promise<{ sound: Sound; notes: Note[] }> {
  if (isWave(bytes)) {
    const facts = readWavFacts(bytes, fileName);
    const own = facts.bits === 16 || facts.format === 17 ? soundOfWav(bytes, facts, fileName) : undefined;
    // What comes as it has to be goes in sample for sample.
    if (own?.rate === rate && own.channels === channels) return { sound: own, notes: [] };
    const sound = await soundByFfmpeg(bytes, fileName, { rate, channels });
    const same = facts.rate === rate && facts.channels === channels;
    const from = { rate: facts.rate, channels: facts.channels };
    return { sound, notes: same ? [] : [{ code: 'sound-resampled', from, to: { rate, channels } }] };
  }
  const sound = await soundByFfmpeg(bytes, fileName, { rate, channels });
  const ending = /\.(\w+)$/.exec(fileName)?.[1]?.toUpperCase();
  return {
    sound,
    notes: [{ code: 'sound-converted', ...(ending === undefined ? {} : { from: ending }), to: { rate, channels } }],
  };
}
