/** Entries that are sounds of the game's own: the recipe of their archive, or one of their form, describes them. */
import { FaultError } from '../../core/faults';
import {
  decodeSound,
  loopEdits,
  readRecipeSound,
  readWavFacts,
  saySound,
  secondsOf,
  soundAsWav,
  soundFormatOf,
  soundOfWav,
  wavStream,
  withoutSilence,
  writeWav,
  type RecipeSound,
  type Sound,
  type SoundFormat,
} from '../../core/forms/sound';
import { readEntry } from '../../core/recipe';
import type { SoundOut } from '../../core/forms/sound/out-formats';
import { entryBytes, entryHead, isWave } from '../content';
import { holdArchive, pathInGameOf, withArchive } from '../games';
import { formRecipeOf } from '../recipes';
import { encodedAs, probeSound, soundByFfmpeg, waveAs } from '../../programs';

export interface EntrySound {
  readonly format: SoundFormat;
  readonly sound: Sound;
}

/** The format alone, without its samples; undefined when no recipe tells of a sound. */
export async function entrySoundFormat(archiveId: number, n: number): Promise<SoundFormat | undefined> {
  const byRow = await withArchive(archiveId, async (archive) => soundFormatOf(archive, n));
  return byRow ?? (await entryRecipeSound(archiveId, n))?.format;
}

/** An entry whose own fields describe it as a sound; undefined for all others. */
async function entryRecipeSound(archiveId: number, n: number): Promise<RecipeSound | undefined> {
  const [head, path] = await Promise.all([
    withArchive(archiveId, (archive) => entryHead(archive, n)),
    pathInGameOf(archiveId, n),
  ]);
  if ((await formRecipeOf(head, path, 'sound')) === undefined) return undefined;
  return recipeSound((await entryBytes(archiveId, n)).bytes, path);
}

/** The same of bytes under a path. @throws FormatError for what is wrong in them */
export async function recipeSound(bytes: Uint8Array, path: string): Promise<RecipeSound | undefined> {
  const recipe = await formRecipeOf(bytes.subarray(0, 512), path, 'sound');
  return recipe === undefined ? undefined : readRecipeSound(recipe, bytes, path);
}

/** How a sound of the game's own is stored, and its samples; undefined for one in a standard file, or of another form. */
async function ownSound(archiveId: number, n: number): Promise<{ format: SoundFormat; bytes: Uint8Array } | undefined> {
  const format = await withArchive(archiveId, async (archive) => soundFormatOf(archive, n));
  if (format !== undefined) return { format, bytes: (await entryBytes(archiveId, n)).bytes };
  const found = await entryRecipeSound(archiveId, n);
  return found && { format: found.format, bytes: found.samples };
}

/** Whether the row of a cue takes another loop. */
export const loopIsFree = (archiveId: number, n: number): Promise<boolean> =>
  withArchive(archiveId, async (archive) => loopEdits(archive, n, [0, 0]) !== undefined);

/** @throws FaultError `wrong-kind` when the recipe of its archive tells of no sound, and what decoding says */
export async function soundOfEntry(archiveId: number, n: number): Promise<EntrySound> {
  const [own, path] = await Promise.all([ownSound(archiveId, n), pathInGameOf(archiveId, n)]);
  if (own === undefined)
    throw new FaultError({ code: 'wrong-kind', entry: path, what: 'the kind of this sound is not known' });
  return { format: own.format, sound: decodeSound(own.bytes, own.format, path) };
}

/** A file of which stretches are made when they are asked for. */
export interface StreamedFile {
  readonly size: number;
  readonly mime: string;
  readonly path: string;
  chunks(from: number, to: number): AsyncIterable<Uint8Array>;
}

/**
 * A sound without a header as WAVE, decoded while it is heard: its first block is enough to begin. Its checksum is the business
 * of whoever looks at all of it.
 *
 * @returns undefined when no recipe tells of a sound
 */
export async function streamedSound(archiveId: number, n: number): Promise<StreamedFile | undefined> {
  const told = await withArchive(archiveId, async (archive) => {
    const format = soundFormatOf(archive, n);
    return format && { format, path: archive.entries.path(n), bytes: archive.entries.size(n) };
  });
  if (told === undefined) {
    const found = await entryRecipeSound(archiveId, n);
    return found && streamOf(found, await pathInGameOf(archiveId, n));
  }
  if (Number.isNaN(told.bytes)) return undefined;
  const { format, path, bytes } = told;
  const stream = wavStream(format, bytes, path);
  return {
    size: stream.size,
    mime: MIMES.wav,
    path: asWavName(path),
    async *chunks(from, to) {
      const { archive, release } = await holdArchive(archiveId);
      try {
        yield* stream.chunks(readEntry(archive, n, { verify: false }), from, to);
      } finally {
        release();
      }
    },
  };
}

const asWavName = (path: string) => path.replace(/(\.[^./]*)?$/, '.wav');

/** A sound that is in memory. */
function streamOf({ format, samples }: RecipeSound, path: string): StreamedFile {
  const stream = wavStream(format, samples.length, path);
  const whole = async function* () {
    yield samples;
  };
  return {
    size: stream.size,
    mime: MIMES.wav,
    path: asWavName(path),
    chunks: (from, to) => stream.chunks(whole(), from, to),
  };
}

const MIMES: Readonly<Record<SoundOut, string>> = { wav: 'audio/wav', flac: 'audio/flac', ogg: 'audio/ogg' };

/** A sound as a file of its own; a loop goes along in WAVE, unless silence is cut off. */
export async function soundFileAs(
  archiveId: number,
  n: number,
  as: SoundOut,
  { trim = false }: { readonly trim?: boolean } = {},
): Promise<{ bytes: Uint8Array; mime: string; path: string }> {
  const own = await ownSound(archiveId, n);
  const { bytes, path } = await entryBytes(archiveId, n);
  const name = `${path.replace(/\.[^./]*$/, '')}.${as}`;
  const whole = own !== undefined ? soundAsWav(own.bytes, own.format, path) : isWave(bytes) ? bytes : undefined;
  const wav = trim ? writeWav(withoutSilence(await entryAsSound(archiveId, n))) : whole;
  const file = { mime: MIMES[as], path: name };
  if (as === 'wav') return { ...file, bytes: wav ?? (await waveAs(bytes, path, 'pcm_s16le')) };
  return { ...file, bytes: await encodedAs(wav ?? bytes, path, as === 'ogg' ? 'vorbis' : as) };
}

/** Any entry that is a sound, as samples of 16 bits: at its own rate, or like another. */
export async function entryAsSound(archiveId: number, n: number, like?: Sound): Promise<Sound> {
  const [told, { bytes, path }] = await Promise.all([ownSound(archiveId, n), entryBytes(archiveId, n)]);
  const facts = isWave(bytes) ? readWavFacts(bytes, path) : undefined;
  const own =
    told !== undefined
      ? decodeSound(told.bytes, told.format, path)
      : facts === undefined
        ? undefined
        : soundOfWav(bytes, facts, path);
  const wanted = like ?? own ?? (await probeSound(bytes, path)) ?? { rate: 44_100, channels: 2 };
  if (own !== undefined && own.rate === wanted.rate && own.channels === wanted.channels) return own;
  const file = told === undefined ? bytes : soundAsWav(told.bytes, told.format, path);
  return soundByFfmpeg(file, told === undefined ? path : 'sound.wav', {
    rate: wanted.rate,
    channels: wanted.channels,
  });
}

/** What the game expects back for a sound, in words. */
export function saySoundExpectation({ format, sound }: EntrySound): string[] {
  const lines = [
    `${saySound(format)}. Any sound file is converted to that.`,
    `The original lasts ${secondsOf(sound).toFixed(1)} s.`,
  ];
  if (format.most !== undefined)
    lines.push(`It may last ${(format.most / format.rate).toFixed(1)} s: what is longer is cut.`);
  if (format.loop !== undefined)
    lines.push(
      `It is played over and over from ${(format.loop[0] / format.rate).toFixed(2)} s to ${(format.loop[1] / format.rate).toFixed(2)} s: yours has to reach so far.`,
    );
  return lines;
}
