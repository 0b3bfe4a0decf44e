/** Films as files that everything plays: pictures, sound and subtitles of a game put together by ffmpeg. */
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { FaultError } from '../../../core/faults';
import { streamsOf, writeSrt, writeVtt } from '../../../core/forms/film';
import type { FilmOut } from '../../../core/forms/film/out-formats';
import { withArchive } from '../../games';
import { fileOf, withTempDir, packetReader, soundOfStream, subtitlesOf, type FilmSource } from './film-source';
import { pictureCodec } from './picture-codecs';
import { convertFilmFile, FILM_ENCODINGS, input, runFfmpeg } from '../../../programs';

export interface FilmChoice {
  readonly as: FilmOut;
  /** The stream of sound or subtitles that is taken; of films with several, all without it. */
  readonly stream?: number | undefined;
}

/** Writes a film to a file. @throws FaultError `wrong-kind` when it has nothing of the kind */
export async function makeFilm(
  source: FilmSource,
  { as, stream }: FilmChoice,
  to: string,
  {
    signal,
    progress = () => {},
  }: { readonly signal: AbortSignal; readonly progress?: (done: number, total: number) => void },
): Promise<void> {
  if (as === 'srt' || as === 'vtt') return writeFile(to, await subtitleFile(source, as, stream, signal));
  await withTempDir(async (room) => {
    if (source.is === 'file') {
      return convertFilmFile(await fileOf(source, room), to, { as, stream }, { name: source.name, signal });
    }
    const { film } = source;
    await withArchive(source.archive, async (archive) => {
      const read = packetReader(archive, source.changed);
      const [pictures] = streamsOf(film, 'pictures');
      const sounds = streamsOf(film, 'sound').filter(({ number }) => stream === undefined || number === stream);
      if (as === 'wav' && sounds[0] === undefined) throw missing(source.name, 'sound');
      if (as === 'wav') return writeFile(to, await soundOfStream(sounds[0]!, read));
      if (pictures === undefined) throw missing(source.name, 'pictures');
      const files: string[] = [];
      for (const sound of sounds) {
        files.push(join(room, `sound-${sound.number}.wav`));
        await writeFile(files.at(-1)!, await soundOfStream(sound, read));
      }
      const subtitles = as === 'mp4' ? streamsOf(film, 'subtitles') : [];
      for (const one of subtitles) {
        files.push(join(room, `subtitles-${one.number}.srt`));
        await writeFile(files.at(-1)!, writeSrt(await subtitlesOf(film, one, read)));
      }
      const maps = ['-map', '0:v', ...files.flatMap((_, i) => ['-map', String(i + 1)])];
      const languages = [...sounds, ...subtitles].map(
        ({ locale }, i) => [i < sounds.length ? `s:a:${i}` : `s:s:${i - sounds.length}`, locale] as const,
      );
      const fed = pictureCodec(pictures).read(pictures, read);
      const args = [
        ...fed.args,
        ...files.flatMap(input),
        ...maps,
        ...FILM_ENCODINGS[as],
        ...(subtitles.length > 0 ? ['-c:s', 'mov_text'] : []),
        ...languages.flatMap(([place, locale]) => (locale === '' ? [] : [`-metadata:${place}`, `language=${locale}`])),
        ...['-f', as, to],
      ];
      const total = Math.round(film.seconds * 1000);
      await runFfmpeg({
        ...{ args, file: source.name, signal, feed: fed.feed },
        onSeconds: (seconds) => progress(Math.min(total, Math.round(seconds * 1000)), total),
      });
    });
  });
}

const missing = (file: string, what: string) =>
  new FaultError({ code: 'wrong-kind', file, what: `the film has no ${what}` });

async function subtitleFile(
  source: FilmSource,
  as: 'srt' | 'vtt',
  stream: number | undefined,
  signal: AbortSignal,
): Promise<string> {
  if (source.is === 'file')
    return withTempDir(async (room) => {
      const to = join(room, `subtitles.${as}`);
      const args = [
        ...input(await fileOf(source, room)),
        '-map',
        stream === undefined ? '0:s:0' : `0:${stream}`,
        '-f',
        as === 'vtt' ? 'webvtt' : 'srt',
        to,
      ];
      await runFfmpeg({ args, file: source.name, signal });
      return readFile(to, 'utf8');
    });
  const { film } = source;
  const [first] = streamsOf(film, 'subtitles').filter(({ number }) => stream === undefined || number === stream);
  if (first === undefined) throw missing(source.name, 'subtitles');
  const subtitles = await withArchive(source.archive, (archive) =>
    subtitlesOf(film, first, packetReader(archive, source.changed)),
  );
  return as === 'srt' ? writeSrt(subtitles) : writeVtt(subtitles);
}
