/** Films of a game: archives whose entries are packets, and entries that are film files. */
import { createHash } from 'node:crypto';
import { mkdtemp, rm, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { collect } from '../../../core/bytes';
import { createFile } from '../../../core/bytes/node';
import { FaultError } from '../../../core/faults';
import {
  filmOf,
  filmSeconds,
  packetPlace,
  withEnds,
  type Film,
  type FilmPacket,
  type FilmStream,
  type Subtitle,
} from '../../../core/forms/film';
import { decodeSound, USUAL_BLOCK, isSoundCodec, writeWav, type SoundFormat } from '../../../core/forms/sound';
import { kindOf } from '../../../core/game';
import { readEntry, type Archive } from '../../../core/recipe';
import { ArchiveModel, ChangeModel } from '../../database';
import { pathInGameOf, withArchive } from '../../games';
import { knownRecipes } from '../../recipes';
import { blobFile, readBlob } from '../../storage';
import type { ReadPacket } from './picture-codecs';

export type FilmSource =
  | {
      readonly is: 'packets';
      readonly archive: number;
      readonly name: string;
      readonly film: Film;
      /** New bytes of packets, by what they are called; those that are gone have none. */
      readonly changed: ReadonlyMap<string, string>;
    }
  | { readonly is: 'file'; readonly archive: number; readonly n: number; readonly name: string };

/**
 * @param withChanges of packets, as the game will have the film
 * @throws FaultError `wrong-kind` when the entry is no film and belongs to none
 */
export async function filmSource(archiveId: number, n: number, withChanges = false): Promise<FilmSource> {
  const { path, gameId } = (await ArchiveModel.findByPk(archiveId))!;
  const changes = withChanges ? await ChangeModel.findAll({ where: { gameId, undone: false } }) : [];
  const found = await withArchive(archiveId, async (archive) => {
    const film = filmOf(archive);
    return film === undefined ? undefined : changedFilm(archive, film, changes);
  });
  if (found !== undefined) return { is: 'packets', archive: archiveId, name: path, ...found };
  const name = await pathInGameOf(archiveId, n);
  if (kindOf(name) !== 'film') throw new FaultError({ code: 'wrong-kind', entry: name, what: 'it is no film' });
  return { is: 'file', archive: archiveId, n, name };
}

/** The first packet of the film that a file is called like: `scenes.mp4`, or `scenes.de.srt`. */
export async function filmNamed(gameId: number, fileName: string): Promise<string | undefined> {
  const recipes = (await knownRecipes(gameId)).flatMap((recipe) =>
    recipe.entries.film === undefined ? [] : [recipe.id],
  );
  const stem = (name: string) =>
    name
      .slice(name.lastIndexOf('/') + 1)
      .replace(/\.[^.]*$/, '')
      .toLowerCase();
  const wanted = [stem(fileName), stem(stem(fileName))];
  const rows = await ArchiveModel.findAll({ where: { gameId, state: 'open', recipe: recipes } });
  const row = rows.find(({ path }) => wanted.includes(stem(path)));
  return (
    row && withArchive(row.id, async (archive) => filmOf(archive)?.streams.flatMap(({ packets }) => packets)[0]?.path)
  );
}

/** A film with packets that are new, other or gone. */
function changedFilm(
  archive: Archive,
  film: Film,
  changes: readonly ChangeModel[],
): { film: Film; changed: Map<string, string> } {
  const changed = new Map<string, string>();
  const gone = new Set<string>();
  const fresh = film.streams.map((): FilmPacket[] => []);
  for (const { path, action, blob, size } of changes) {
    const place = packetPlace(archive, path);
    if (place === undefined) continue;
    if (action === 'remove') gone.add(path);
    else changed.set(path, blob);
    if (action === 'add') fresh[place.stream]!.push({ n: -1, time: place.time, size, path });
  }
  if (changed.size + gone.size === 0) return { film, changed };
  const streams = film.streams.map((stream, i) => ({
    ...stream,
    packets: [...stream.packets.filter(({ path }) => !gone.has(path)), ...fresh[i]!].sort((a, b) => a.time - b.time),
  }));
  return { film: { ...film, streams, seconds: filmSeconds(streams, film.shownFor) }, changed };
}

/** Tells a film, as it lies in the game now, from what it was. */
export async function filmMark(source: FilmSource): Promise<string> {
  const row = await ArchiveModel.findByPk(source.archive);
  const file = source.is === 'file' ? `:${source.n}` : '';
  const changes = source.is === 'packets' ? [...source.changed].flat().join() + source.film.seconds : '';
  const facts = `${row?.path}${file}:${row?.size}:${row?.modified}:${row?.id}:${changes}`;
  return createHash('sha256').update(facts).digest('hex');
}

/** A folder for the files of one conversion; the caller removes it. */
export const filmRoom = (): Promise<string> => mkdtemp(join(tmpdir(), 'zero-latch-film-'));

/** The same, gone when the work is over. */
export async function withTempDir<T>(work: (room: string) => Promise<T>): Promise<T> {
  const room = await filmRoom();
  try {
    return await work(room);
  } finally {
    await rm(room, { recursive: true, force: true });
  }
}

/** A kept file under a name that programs know its kind by. */
export async function blobIn(sha256: string, fileName: string, room: string): Promise<string> {
  const path = join(room, `given${/\.\w{1,8}$/.exec(fileName)?.[0] ?? ''}`);
  await symlink(await blobFile(sha256), path);
  return path;
}

/** The bytes of a film file, for programs that read files. @param most how many bytes from its start, where that is enough */
export async function fileOf(
  { archive, n, name }: FilmSource & { is: 'file' },
  room: string,
  most = Infinity,
): Promise<string> {
  const path = join(room, `film${/\.\w{1,8}$/.exec(name)?.[0] ?? ''}`);
  await withArchive(archive, async (opened) => {
    const sink = await createFile(path, { durable: false });
    try {
      let bytes = 0;
      for await (const chunk of readEntry(opened, n, { verify: most === Infinity })) {
        await sink.write(chunk);
        bytes += chunk.length;
        if (bytes >= most) break;
      }
      await sink.close();
    } catch (error) {
      await sink.abandon();
      throw error;
    }
  });
  return path;
}

/** Reads the packets of a film, changed or not. */
export function packetReader(archive: Archive, changed: ReadonlyMap<string, string>): ReadPacket {
  return async ({ n, path }) => {
    const blob = changed.get(path);
    return blob === undefined ? collect(readEntry(archive, n)) : readBlob(blob);
  };
}

/** The sound of a stream as WAVE. @throws FormatError `wrong-kind` for a codec that nothing here reads */
export async function soundOfStream(stream: FilmStream, read: ReadPacket): Promise<Uint8Array> {
  const format = soundFormat(stream);
  const parts: Int16Array[] = [];
  for (const packet of stream.packets) parts.push(decodeSound(await read(packet), format, packet.path).samples);
  const samples = new Int16Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    samples.set(part, at);
    at += part.length;
  }
  return writeWav({ rate: stream.rate, channels: stream.channels, samples });
}

/** @throws FaultError `wrong-kind` for a codec that nothing here reads */
export function soundFormat({ codec, rate, channels, block }: FilmStream): SoundFormat {
  if (isSoundCodec(codec)) return { codec, rate, channels, block: block ?? USUAL_BLOCK, loop: undefined };
  throw new FaultError({
    code: 'wrong-kind',
    what: 'nothing here reads sound of that codec',
    found: codec,
    hint: 'Its packets go out as stored.',
  });
}

export async function subtitlesOf(film: Film, { packets }: FilmStream, read: ReadPacket): Promise<Subtitle[]> {
  const texts: { time: number; text: string }[] = [];
  for (const packet of packets) texts.push({ time: packet.time, text: new TextDecoder().decode(await read(packet)) });
  return withEnds(texts, film.shownFor, film.seconds * 1000);
}
