/** Films as files: the packets of one go out as one film, with its subtitles next to it. */
import { createReadStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { isNamedAs, type ConvertedFile, type Outgoing, type OutPlan } from '../take-out';
import { filmRoom, filmSource } from './film-source';
import { makeFilm, type FilmChoice } from './make-film';

export async function planFilms({ order: { films: as }, entries }: Outgoing): Promise<OutPlan | undefined> {
  if (as === undefined) return undefined;
  // What films of packets are called, by their archives, and the packet that represents all.
  const films = new Map<number, { readonly name: string; readonly n: number }>();
  for (const archive of new Set(entries.map((entry) => entry.archive))) {
    const { n } = entries.find((entry) => entry.archive === archive)!;
    const source = await filmSource(archive, n);
    if (source.is === 'packets') films.set(archive, { name: source.name, n });
  }
  return {
    as,
    converts: (entry) => !isNamedAs(entry, as),
    isWithin: ({ archive, n }) => films.has(archive) && films.get(archive)!.n !== n,
    pathOf: ({ archive }) => films.get(archive)?.name,
    suffixes: [''],
    files: ({ archive, n }, signal) => filmFiles(archive, n, as, signal),
  };
}

async function* filmFiles(
  archive: number,
  n: number,
  as: 'webm' | 'mp4',
  signal: AbortSignal,
): AsyncGenerator<ConvertedFile> {
  const source = await filmSource(archive, n);
  const room = await filmRoom();
  try {
    const made = async (name: string, choice: FilmChoice) => {
      await makeFilm(source, choice, join(room, name), { signal });
      return createReadStream(join(room, name), { highWaterMark: 1 << 20 });
    };
    yield { suffix: '', chunks: await made(`film.${as}`, { as }), notes: [] };
    const subtitles = source.is === 'packets' ? source.film.streams.filter(({ is }) => is === 'subtitles') : [];
    for (const { number, locale } of subtitles)
      yield {
        suffix: `.${locale === '' ? number : locale}`,
        ending: '.srt',
        chunks: await made(`${number}.srt`, { as: 'srt', stream: number }),
        notes: [],
      };
  } finally {
    await rm(room, { recursive: true, force: true });
  }
}
