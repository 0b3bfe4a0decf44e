/** Entries that are sounds of the game's own: the recipe of their archive, or one of their form, describes them. */
import { FaultError } from '../../../core/faults';
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
} from '../../../core/forms/sound';
import { readEntry } from '../../../core/recipe';
import type { SoundOut } from '../../../core/forms/sound/out-formats';
import { isWave } from '../../content';
import { holdArchive, withArchive } from '../../games';
import { formRecipeOf } from '../../recipes';
import type { Subject } from '../form';
import { encodedAs, OPEN_CODINGS, probeSound, soundByFfmpeg, waveAs } from '../../../programs';

export interface OwnSound {
  readonly format: SoundFormat;
  readonly sound: Sound;
}

/** Whether its archive or its own fields say how it is stored, and no header of a standard file. */
export const isOwnSound = async ({ gameId, declared, head, path }: Subject): Promise<boolean> =>
  declared === 'sound' || (await formRecipeOf(gameId, head, path, 'sound')) !== undefined;

/** The format alone; undefined for a sound in a standard file. @throws FormatError for a codec that is not known */
export async function ownFormat(subject: Subject): Promise<SoundFormat | undefined> {
  const byRow = await formatByRow(subject);
  return byRow ?? (await recipeSound(subject))?.format;
}

/** As the row of its entry says. */
async function formatByRow({ declared, entry, loop }: Subject): Promise<SoundFormat | undefined> {
  if (declared !== 'sound' || entry === undefined) return undefined;
  const format = await withArchive(entry.archive, async (archive) => soundFormatOf(archive, entry.n));
  return format && { ...format, loop: loop ?? format.loop };
}

/** One whose own fields describe it; undefined for all others. @throws FormatError for what is wrong in them */
export async function recipeSound({ gameId, head, path, bytes }: Subject): Promise<RecipeSound | undefined> {
  const recipe = await formRecipeOf(gameId, head, path, 'sound');
  return recipe === undefined ? undefined : readRecipeSound(recipe, await bytes(), path);
}

/** How a sound of the game's own is stored, and its samples as they are packed; undefined for one in a standard file. */
async function stored(subject: Subject): Promise<{ format: SoundFormat; bytes: Uint8Array } | undefined> {
  const format = await formatByRow(subject);
  if (format !== undefined) return { format, bytes: await subject.bytes() };
  const found = await recipeSound(subject);
  return found && { format: found.format, bytes: found.samples };
}

/** Whether the row of a cue takes another loop. */
export const loopIsFree = ({ entry }: Subject): Promise<boolean> =>
  entry === undefined
    ? Promise.resolve(false)
    : withArchive(entry.archive, async (archive) => loopEdits(archive, entry.n, [0, 0]) !== undefined);

/** @throws FaultError `wrong-kind` when nothing says how it is stored, and what decoding says */
export async function ownSound(subject: Subject): Promise<OwnSound> {
  const own = await stored(subject);
  const { path } = subject;
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
 * @returns undefined for a sound in a standard file, and for one that is no entry and so is in memory already
 */
export async function streamedSound(subject: Subject): Promise<StreamedFile | undefined> {
  const { entry, isEntry, path, size: bytes } = subject;
  if (!isEntry) return undefined;
  const format = await formatByRow(subject);
  if (format === undefined || entry === undefined) {
    const found = await recipeSound(subject);
    return found && streamOf(found, path);
  }
  if (Number.isNaN(bytes)) return undefined;
  const stream = wavStream(format, bytes, path);
  return {
    size: stream.size,
    mime: MIMES.wav,
    path: asWavName(path),
    async *chunks(from, to) {
      const { archive, release } = await holdArchive(entry.archive);
      try {
        yield* stream.chunks(readEntry(archive, entry.n, { verify: false }), from, to);
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
  subject: Subject,
  as: SoundOut,
  { trim = false }: { readonly trim?: boolean } = {},
): Promise<{ bytes: Uint8Array; mime: string; path: string }> {
  const { path } = subject;
  const own = await stored(subject);
  const bytes = await subject.bytes();
  const name = `${path.replace(/\.[^./]*$/, '')}.${as}`;
  const whole = own !== undefined ? soundAsWav(own.bytes, own.format, path) : isWave(bytes) ? bytes : undefined;
  const wav = trim ? writeWav(withoutSilence(await asSound(subject))) : whole;
  const file = { mime: MIMES[as], path: name };
  if (as === 'wav') return { ...file, bytes: wav ?? (await waveAs(bytes, path, 'pcm_s16le')) };
  return { ...file, bytes: await encodedAs(wav ?? bytes, path, OPEN_CODINGS[as]) };
}

/** Any sound as samples of 16 bits: at its own rate, or like another. */
export async function asSound(subject: Subject, like?: Sound): Promise<Sound> {
  const { path } = subject;
  const [own, bytes] = await Promise.all([stored(subject), subject.bytes()]);
  const facts = isWave(bytes) ? readWavFacts(bytes, path) : undefined;
  const sound =
    own !== undefined
      ? decodeSound(own.bytes, own.format, path)
      : facts === undefined
        ? undefined
        : soundOfWav(bytes, facts, path);
  const wanted = like ?? sound ?? (await probeSound(bytes, path)) ?? { rate: 44_100, channels: 2 };
  if (sound !== undefined && sound.rate === wanted.rate && sound.channels === wanted.channels) return sound;
  const file = own === undefined ? bytes : soundAsWav(own.bytes, own.format, path);
  return soundByFfmpeg(file, own === undefined ? path : 'sound.wav', {
    rate: wanted.rate,
    channels: wanted.channels,
  });
}

/** What the game expects back for a sound, in words. */
export function saySoundExpectation({ format, sound }: OwnSound): string[] {
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
