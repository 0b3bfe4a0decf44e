/** Film files as other film files, by ffmpeg. Packets of a game's own film are entries of their own, and stay so. */
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { extname, join } from 'node:path';
import type { FormConverter } from '../core/forms';
import { kindOf } from '../core/game';
import { convertFilmFile, probeFilm } from '../programs';
import { FILM_FILES } from './out-formats';

export const filmConverter: FormConverter<(typeof FILM_FILES)[number]> = {
  formats: FILM_FILES,
  async convert({ path, head, bytes }, as) {
    if (kindOf(path, head) !== 'film') return undefined;
    const folder = await mkdtemp(join(tmpdir(), 'zero-latch-film-'));
    try {
      const [from, to] = [join(folder, `film${extname(path)}`), join(folder, `made.${as}`)];
      await writeFile(from, await bytes());
      // A name alone makes no film.
      if ((await probeFilm(from)) === undefined) return undefined;
      await convertFilmFile(from, to, { as }, { name: path, signal: new AbortController().signal });
      return { bytes: await readFile(to), notes: [] };
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  },
  // Fitting a film takes minutes and choices: the pages do it.
  fit: () => Promise.resolve(undefined),
};
