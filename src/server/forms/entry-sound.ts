/** Entries that are sounds without a header: their archive's recipe tells what they are. */
import { FaultError, FormatError } from '../../core/faults';
import {
  checkNotEmpty,
  decodeSound,
  encodeSound,
  readWavFacts,
  saySound,
  secondsOf,
  soundFormatOf,
  soundOfWav,
  writeWav,
  type Sound,
  type SoundFormat,
} from '../../core/forms/sound';
import type { SoundOut } from '../../core/forms/sound/out-formats';
import { entryBytes, isWave } from '../entries/entry-content';
import { withArchive } from '../games';
import { soundByFfmpeg, wavAs } from './ffmpeg';

export interface EntrySound {
  readonly format: SoundFormat;
  readonly sound: Sound;
}

/** The format alone, without its samples; undefined when no recipe tells of a sound. */
export const entrySoundFormat = (archiveId: number, n: number): Promise<SoundFormat | undefined> =>
  withArchive(archiveId, async (archive) => soundFormatOf(archive, n));

/** @throws FaultError `wrong-kind` when the recipe of its archive tells of no sound, and what decoding says */
export async function soundOfEntry(archiveId: number, n: number): Promise<EntrySound> {
  const [format, { bytes, path }] = await Promise.all([entrySoundFormat(archiveId, n), entryBytes(archiveId, n)]);
  if (format === undefined)
    throw new FaultError({ code: 'wrong-kind', entry: path, what: 'nothing tells what kind of sound this is' });
  return { format, sound: decodeSound(bytes, format, path) };
}

const MIMES: Readonly<Record<SoundOut, string>> = { wav: 'audio/wav', flac: 'audio/flac', ogg: 'audio/ogg' };

/** A sound as a file of its own; a loop goes along in WAVE. */
export async function soundFileAs(
  archiveId: number,
  n: number,
  as: SoundOut,
): Promise<{ bytes: Uint8Array; mime: string; path: string }> {
  const format = await entrySoundFormat(archiveId, n);
  const { bytes, path } = await entryBytes(archiveId, n);
  const name = `${path.replace(/\.[^./]*$/, '')}.${as}`;
  const wav = format === undefined ? bytes : writeWav(decodeSound(bytes, format, path), format.loop);
  if (format === undefined && !isWave(bytes))
    throw new FaultError({ code: 'wrong-kind', entry: path, what: 'this sound goes out only as it is' });
  return { bytes: as === 'wav' ? wav : await wavAs(wav, as), mime: MIMES[as], path: name };
}

/** What the game expects back for a sound, in words. */
export function saySoundExpectation({ format, sound }: EntrySound): string[] {
  const lines = [
    `${saySound(format)}. Any sound file is converted to that.`,
    `The original lasts ${secondsOf(sound).toFixed(1)} s.`,
  ];
  if (format.loop !== undefined)
    lines.push(
      `It is played over and over from ${(format.loop[0] / format.rate).toFixed(2)} s to ${(format.loop[1] / format.rate).toFixed(2)} s: yours has to reach so far.`,
    );
  return lines;
}

/**
 * A dropped sound file as the bytes the game keeps.
 *
 * @throws FormatError `wrong-kind` when it is no sound, too short for its loop, or 0 seconds long
 */
export async function fitSoundTo(
  format: SoundFormat,
  dropped: Uint8Array,
  fileName: string,
): Promise<{ bytes: Uint8Array; done: readonly string[] }> {
  const { sound, done } = await soundFor(format, dropped, fileName);
  checkNotEmpty(sound, fileName);
  const frames = sound.samples.length / format.channels;
  if (format.loop !== undefined && frames <= format.loop[1])
    throw new FormatError({
      code: 'wrong-kind',
      file: fileName,
      what: 'the sound is too short for the loop of the original',
      expected: `more than ${(format.loop[1] / format.rate).toFixed(2)} s`,
      found: `${secondsOf(sound).toFixed(2)} s`,
      hint: 'Make it longer, with silence if need be.',
    });
  const kept = format.codec === 'pcm-s16' ? [] : [`packed as ${saySound({ ...format, loop: undefined })}`];
  return { bytes: encodeSound(sound, format), done: [...done, ...kept] };
}

/** The samples of a file at a rate and with channels: as they are where they fit, by ffmpeg otherwise. */
export async function soundFor(
  { rate, channels }: Pick<SoundFormat, 'rate' | 'channels'>,
  bytes: Uint8Array,
  fileName: string,
): Promise<{ sound: Sound; done: string[] }> {
  if (isWave(bytes)) {
    const facts = readWavFacts(bytes, fileName);
    const own = facts.bits === 16 || facts.format === 17 ? soundOfWav(bytes, facts, fileName) : undefined;
    // What comes as it has to be goes in sample for sample.
    if (own?.rate === rate && own.channels === channels) return { sound: own, done: [] };
    const sound = await soundByFfmpeg(bytes, fileName, { rate, channels });
    return { sound, done: [sayFrom(facts.rate, facts.channels, rate, channels)] };
  }
  const sound = await soundByFfmpeg(bytes, fileName, { rate, channels });
  const ending = /\.(\w+)$/.exec(fileName)?.[1]?.toUpperCase() ?? 'another format';
  return { sound, done: [`converted from ${ending} to ${rate.toLocaleString('en')} Hz, ${sayChannels(channels)}`] };
}

const sayChannels = (channels: number) => ({ 1: 'mono', 2: 'stereo' })[channels] ?? `${channels} channels`;
const sayFrom = (rate: number, channels: number, toRate: number, toChannels: number) =>
  `yours had ${rate.toLocaleString('en')} Hz and was ${sayChannels(channels)}, made ${toRate.toLocaleString('en')} Hz and ${sayChannels(toChannels)}`;
