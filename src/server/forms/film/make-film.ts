/** Films as files that everything plays: pictures, sound and subtitles of a game put together by ffmpeg. */
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { FaultError } from '../../../core/faults';
import { streamsOf, writeSrt, writeVtt } from '../../../core/forms/film';
import type { FilmOut } from '../../../core/forms/film/out-formats';
import { withArchive } from '../../games';
import { fileOf, withTempDir, packetReader, soundOfStream, subtitlesOf, type FilmSource } from './film-source';
import { pictureCodec } from './picture-codecs';
import { input, runFfmpeg } from './run-ffmpeg';

/** Pixels are kept for every second one along each side: a side that is odd is filled up by one. */
const EVEN = ['-vf', 'pad=ceil(iw/2)*2:ceil(ih/2)*2', '-pix_fmt', 'yuv420p'];

/** How pictures and sound are kept, by what holds them. */
const MAKES: Readonly<Record<'webm' | 'mp4', readonly string[]>> = {
  webm: [
    ...EVEN,
    ...['-c:v', 'libvpx', '-deadline', 'realtime', '-cpu-used', '4', '-crf', '8', '-b:v', '4M'],
    ...['-c:a', 'libvorbis', '-q:a', '6'],
  ],
  mp4: [
    ...EVEN,
    ...['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '18'],
    ...['-c:a', 'aac', '-b:a', '192k'],
    ...['-movflags', '+faststart'],
  ],
};

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
      const wanted = as === 'wav' ? ['-vn', '-c:a', 'pcm_s16le'] : MAKES[as];
      const map = stream === undefined ? [] : ['-map', `0:${stream}`];
      return runFfmpeg({
        args: [...input(await fileOf(source, room)), ...map, ...wanted, '-f', as, to],
        file: source.name,
        signal,
      });
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
        ...MAKES[as],
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
