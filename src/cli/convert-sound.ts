/** Sounds as files. The recipe of the archive describes sounds without a header; ffmpeg reads all others. */
import { formRecipe, ifReadable, type EntryToConvert, type FormConverter } from '../core/forms';
import { readRecipeSound, readWavFacts, soundAsWav, soundFormatOf, writeRecipeSound } from '../core/forms/sound';
import { SOUND_OUT, type SoundOut } from '../core/forms/sound/out-formats';
import { kindOf, mimeOf } from '../core/game';
import { encodedAs, fitCue, fitSoundFile, OPEN_CODINGS, probeSound, waveAs } from '../programs';

export const soundConverter: FormConverter<SoundOut> = {
  formats: SOUND_OUT,
  async convert(entry, as) {
    const { path, bytes } = entry;
    const { format, found } = await stored(entry);
    if (format === undefined && kindOf(path, entry.head) !== 'sound') return undefined;
    const own = found?.samples ?? (await bytes());
    const file = format === undefined ? own : soundAsWav(own, format, path);
    const name = format === undefined ? path : 'sound.wav';
    if (as !== 'wav') return { bytes: await encodedAs(file, name, OPEN_CODINGS[as]), notes: [] };
    return { bytes: format === undefined ? await waveAs(file, name, 'pcm_s16le') : file, notes: [] };
  },
  async fit(entry, { bytes: given, fileName }) {
    const { path } = entry;
    const { format, found } = await stored(entry);
    if (format !== undefined) {
      const made = await fitCue(
        format,
        found?.samples ?? (await ifReadable(entry.bytes())) ?? new Uint8Array(0),
        given,
        fileName,
        {},
      );
      const bytes = found === undefined ? made.bytes : await writeRecipeSound(found, made.bytes);
      return { files: [{ path, bytes }], notes: made.notes };
    }
    if (kindOf(path, entry.head) !== 'sound' || !(await isReadable(entry))) return undefined;
    const made = await fitSoundFile(path, await entry.bytes(), given, fileName, {});
    return { files: [{ path, bytes: made.bytes }], notes: made.notes };
  },
};

/** How a sound of the game's own is stored, by its row or by its own fields. */
async function stored({ listed, path, head, bytes, recipes }: EntryToConvert) {
  const presenting = recipes.filter(({ presents }) => presents === 'sound');
  const recipe = await formRecipe(presenting, head, path);
  const found = recipe === undefined ? undefined : await readRecipeSound(recipe, await bytes(), path);
  const byRow = listed && soundFormatOf(listed.archive, listed.n);
  return { found, format: byRow ?? found?.format };
}

/** A file that is called a sound may hold anything. */
async function isReadable({ path, head, bytes }: EntryToConvert): Promise<boolean> {
  const all = await ifReadable(bytes());
  if (all === undefined) return false;
  if (mimeOf(path, head) !== 'audio/wav') return (await probeSound(all, path)) !== undefined;
  return (await ifReadable(Promise.resolve().then(() => readWavFacts(all, path)))) !== undefined;
}
