/** What entries are taken out as; apart from what converts them, which takes time to load. */
import { FONT_OUT } from '../core/forms/font/out-formats';
import { MESH_OUT } from '../core/forms/mesh/out-formats';
import { PICTURE_OUT } from '../core/forms/picture/out-formats';
import { SOUND_OUT } from '../core/forms/sound/out-formats';
import { WORD_FILES } from '../core/forms/words/out-formats';

/** Film files that ffmpeg writes out of others. */
export const FILM_FILES = ['mp4', 'webm'] as const;

/** Every format that entries, or tables of texts, are taken out in. */
export const OUT_FORMATS: readonly string[] = [
  ...new Set([...PICTURE_OUT, ...MESH_OUT, ...FONT_OUT, 'csv', ...SOUND_OUT, ...FILM_FILES, ...WORD_FILES]),
];
