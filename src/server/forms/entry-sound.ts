/** Entries that are sounds without a header: their archive's recipe tells what they are. */
import { FaultError } from '../../core/faults';
import {
  decodeSound,
  saySound,
  secondsOf,
  soundAsWav,
  soundFormatOf,
  type Sound,
  type SoundFormat,
} from '../../core/forms/sound';
import type { SoundOut } from '../../core/forms/sound/out-formats';
import { entryBytes, isWave } from '../entries/entry-content';
import { withArchive } from '../games';
import { encodedAs, waveAs } from './ffmpeg';

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
  const wav = format !== undefined ? soundAsWav(bytes, format, path) : isWave(bytes) ? bytes : undefined;
  const file = { mime: MIMES[as], path: name };
  if (as === 'wav') return { ...file, bytes: wav ?? (await waveAs(bytes, path, 'pcm_s16le')) };
  return { ...file, bytes: await encodedAs(wav ?? bytes, path, as === 'ogg' ? 'vorbis' : as) };
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
