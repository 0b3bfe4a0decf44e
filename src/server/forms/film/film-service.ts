/** Films for pages: what they are, and the files that are made of them once and kept. */
import { entrySize } from '../../../core/recipe';
import { createHash, randomBytes } from 'node:crypto';
import { mkdir, readdir, readFile, rename, rm, stat } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { isDeepStrictEqual } from 'node:util';
import { createFile } from '../../../core/bytes/node';
import { sayStream, streamsOf } from '../../../core/forms/film';
import { mimeOf } from '../../../core/game';
import { RunModel } from '../../database';
import { env } from '../../env';
import { requireArchive, withArchive } from '../../games';
import { runOf, startRun } from '../../runs';
import type { RunContext } from '../../runs/run-context';
import type { FilmFacts, FilmFileAnswer, FilmOrder, RunResult } from '../../shapes';
import { fileOf, filmMark, filmSource, withTempDir, type FilmSource } from './film-source';
import { makeFilm } from './make-film';
import { bitsOf, isLossy } from './picture-codecs';
import { input, probeFilm, runFfmpeg, type ProbedFilm } from '../../../programs';

const MIMES = { webm: 'video/webm', mp4: 'video/mp4', wav: 'audio/wav', srt: 'text/plain', vtt: 'text/vtt' } as const;

/** Enough of a film to say what it is, and to see how it begins: no page waits for gigabytes. */
const ENOUGH_BYTES = 64 << 20;
/** Pictures of which the one that represents most of them is shown. */
const POSTER_OF = 100;

/** A picture from the beginning that is like most of those around it. @returns WebP that fits a frame */
export async function filmPoster(
  archiveId: number,
  n: number,
  { width, height }: { readonly width: number; readonly height: number },
): Promise<Uint8Array> {
  const source = await filmSource(archiveId, n);
  if (source.is !== 'file') throw new RangeError('packets show themselves');
  return withTempDir(async (room) => {
    const file = await fileOf(source, room, ENOUGH_BYTES);
    const to = join(room, 'poster.webp');
    const scale = `scale=${width}:${height}:force_original_aspect_ratio=decrease`;
    const args = [...input(file), '-vf', `thumbnail=${POSTER_OF},${scale}`, '-frames:v', '1', to];
    await runFfmpeg({ args, file: source.name, signal: new AbortController().signal });
    return readFile(to);
  });
}

/** What browsers play as it is. */
const PLAYED = /^video\/(mp4|webm)$/;
const PLAYED_CODECS = ['h264', 'vp8', 'vp9', 'av1'];

/** Facts of the film that an entry is, or is a packet of. */
export async function filmFacts(archiveId: number, n: number): Promise<FilmFacts> {
  const source = await filmSource(archiveId, n);
  if (source.is === 'packets') {
    const { film } = source;
    const [pictures] = streamsOf(film, 'pictures');
    const of = film.streams.find(({ packets }) => packets.some((packet) => packet.n === n));
    return {
      form: 'film',
      name: basename(source.name),
      seconds: film.seconds,
      rate: pictures?.rate ?? 0,
      streams: film.streams.map((stream) => ({
        number: stream.number,
        is: stream.is,
        locale: stream.locale,
        summary: sayStream(stream),
      })),
      packet:
        of === undefined
          ? null
          : { stream: of.number, at: of.packets.find((packet) => packet.n === n)!.time / 1000, picture: null },
      bits: pictures !== undefined && isLossy(pictures) ? bitsOf(pictures) : null,
      codec: pictures?.codec ?? null,
      direct: false,
      trouble: null,
    };
  }
  const probed = await probedOnce(source);
  const streams = (probed?.streams ?? []).map((stream, number) => ({
    number,
    is: stream.is,
    locale: stream.locale,
    summary:
      stream.is === 'pictures'
        ? `Pictures of ${stream.width} × ${stream.height}, ${stream.codec}, ${Number(stream.rate.toFixed(2))} a second`
        : stream.is === 'sound'
          ? `Sound, ${stream.codec}, ${stream.rate.toLocaleString('en')} Hz, ${stream.channels === 1 ? 'mono' : `${stream.channels} channels`}`
          : `Subtitles, ${stream.codec}`,
  }));
  const picture = probed?.streams.find(({ is }) => is === 'pictures');
  return {
    form: 'film',
    name: basename(source.name),
    seconds: probed?.seconds ?? 0,
    rate: picture?.rate ?? 0,
    streams,
    packet: null,
    bits: probed?.bits ?? null,
    codec: picture?.codec ?? null,
    direct: PLAYED.test(mimeOf(source.name)) && PLAYED_CODECS.includes(picture?.codec ?? ''),
    trouble: probed === undefined ? await unreadable(source) : null,
  };
}

async function unreadable({ archive, n }: FilmSource & { is: 'file' }): Promise<string> {
  const size = await withArchive(archive, (opened) => Promise.resolve(entrySize(opened, n)));
  return size > ENOUGH_BYTES
    ? 'Its description is at its end, and it is too large to be read here. Take it out to play it.'
    : 'Nothing that plays films can read this one. It is written as stored.';
}

/** Probing takes a copy of the film: it is done once for each. */
export async function probedOnce(source: FilmSource & { is: 'file' }): Promise<ProbedFilm | undefined> {
  const path = join(env().home, 'films', `${await filmMark(source)}.json`);
  const known = await readFile(path, 'utf8').catch(() => undefined);
  if (known !== undefined) return (JSON.parse(known) as { probed?: ProbedFilm }).probed;
  const probed = await withTempDir(async (room) => probeFilm(await fileOf(source, room, ENOUGH_BYTES)));
  await mkdir(dirname(path), { recursive: true });
  const sink = await createFile(path, { durable: false });
  await sink.write(Buffer.from(JSON.stringify({ probed })));
  await sink.close();
  return probed;
}

async function pathOf(source: FilmSource, { as, stream }: FilmOrder): Promise<string> {
  const key = createHash('sha256')
    .update(`${await filmMark(source)} ${as} ${stream ?? 'all'}`)
    .digest('hex');
  return join(env().home, 'films', `${key}.${as}`);
}

/** The file when it is made already, and a run that makes it otherwise. */
export async function filmFile(
  gameId: number,
  archiveId: number,
  n: number,
  order: FilmOrder,
): Promise<FilmFileAnswer> {
  await requireArchive(gameId, archiveId);
  const source = await filmSource(archiveId, n, order.changed);
  const there = await stat(await pathOf(source, order)).catch(() => undefined);
  if (there !== undefined) return { ready: true, bytes: there.size };
  const input = { archiveId, n, ...order };
  // A second request, such as from a page that was reloaded, gets the run that is already there.
  const going = await RunModel.findAll({ where: { kind: 'film', gameId, state: ['waiting', 'working'] } });
  const same = going.find((run) => isDeepStrictEqual(run.input, JSON.parse(JSON.stringify(input))));
  if (same !== undefined) return { ready: false, run: await runOf(same.id) };
  const title = `${basename(source.name)} as ${order.as.toUpperCase()}`;
  return { ready: false, run: await startRun('film', { title, gameId, input }) };
}

/** Where it is once it is made. @throws FaultError `not-found` through reading it when it is not */
export async function filmFilePath(gameId: number, archiveId: number, n: number, order: FilmOrder) {
  await requireArchive(gameId, archiveId);
  const source = await filmSource(archiveId, n, order.changed);
  const name = `${basename(source.name).replace(/\.[^.]*$/, '')}.${order.as}`;
  return { file: await pathOf(source, order), mime: MIMES[order.as], name };
}

/** Makes the file of a film; a half of one never is under its name. */
export async function filmRun({ input: given, signal, progress }: RunContext<'film'>): Promise<RunResult<'film'>> {
  const { archiveId, n, ...order } = given;
  const { as, stream } = order;
  const source = await filmSource(archiveId, n, order.changed);
  const path = await pathOf(source, order);
  await mkdir(dirname(path), { recursive: true });
  const incoming = `${path}.${randomBytes(6).toString('hex')}`;
  try {
    await makeFilm(source, { as, stream }, incoming, {
      signal,
      progress: (done, total) => progress(done, total, 'milliseconds'),
    });
    await rename(incoming, path);
  } finally {
    await rm(incoming, { force: true });
  }
  await sweepFilms(path);
  return { archiveId, n, as, stream: stream ?? null, bytes: (await stat(path)).size };
}

/** Bytes of films that are kept: what is swept is made again when someone asks for it. */
const MOST_KEPT_BYTES = 8 * 2 ** 30;

/** Removes the converted films that were used least recently, but not the one that was just made. */
async function sweepFilms(fresh: string): Promise<void> {
  const folder = dirname(fresh);
  const files = await Promise.all(
    (await readdir(folder)).map(async (name) => {
      const path = join(folder, name);
      const { size, mtimeMs } = await stat(path).catch(() => ({ size: 0, mtimeMs: 0 }));
      return { path, size, mtimeMs };
    }),
  );
  let bytes = 0;
  for (const { path, size } of files.sort((a, b) => b.mtimeMs - a.mtimeMs)) {
    bytes += size;
    if (bytes > MOST_KEPT_BYTES && path !== fresh) await rm(path, { force: true });
  }
}

/** Subtitles as text, small enough to be made when they are asked for. */
export async function filmSubtitles(gameId: number, archiveId: number, n: number, order: FilmOrder): Promise<string> {
  await requireArchive(gameId, archiveId);
  const source = await filmSource(archiveId, n, order.changed);
  return withTempDir(async (room) => {
    const to = join(room, 'subtitles');
    await makeFilm(source, order, to, { signal: new AbortController().signal });
    return readFile(to, 'utf8');
  });
}
