/** Sounds as files. The recipe of the archive describes sounds without a header; ffmpeg reads all others. */
import { formRecipe, type FormConverter } from '../core/forms';
import { readRecipeSound, soundAsWav, soundFormatOf } from '../core/forms/sound';
import { SOUND_OUT, type SoundOut } from '../core/forms/sound/out-formats';
import { kindOf } from '../core/game';
import { encodedAs, waveAs } from '../programs';

export const soundConverter: FormConverter<SoundOut> = {
  formats: SOUND_OUT,
  async convert({ archive, n, path, head, bytes, recipes }, as) {
    const recipe = await formRecipe(
      recipes.filter(({ presents }) => presents === 'sound'),
      head,
      path,
    );
    const found = recipe === undefined ? undefined : await readRecipeSound(recipe, await bytes(), path);
    const format = soundFormatOf(archive, n) ?? found?.format;
    if (format === undefined && kindOf(path, head) !== 'sound') return undefined;
    const own = found?.samples ?? (await bytes());
    const file = format === undefined ? own : soundAsWav(own, format, path);
    const name = format === undefined ? path : 'sound.wav';
    if (as !== 'wav') return { bytes: await encodedAs(file, name, as === 'ogg' ? 'vorbis' : as), notes: [] };
    return { bytes: format === undefined ? await waveAs(file, name, 'pcm_s16le') : file, notes: [] };
  },
};
