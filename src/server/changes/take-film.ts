/** A film, a sound or subtitles become changes of the packets of a film: one change for each stream that is replaced. */
import type { Note } from '../../core/notes';
import { collect } from '../../core/bytes';
import { FaultError, throwIfStopped } from '../../core/faults';
import { packetPath, packetPlace } from '../../core/forms/film';
import { readEntry } from '../../core/recipe';
import { ArchiveModel, ChangeModel, database } from '../database';
import { blobIn, filmSource, fitFilm, withTempDir, type FittedStream } from '../forms/film';
import { withArchive } from '../games';
import { keepBytes } from '../storage';
import { supersedeChange } from './change-service';
import { keptOf, type TakeOrder } from './take-order';

interface Row {
  readonly path: string;
  readonly action: 'replace' | 'add' | 'remove';
  readonly blob: string;
  readonly size: number;
  readonly base: string | null;
}

/**
 * @param archiveId the archive that is the film, `n` the packet the file was dropped on
 * @returns the change of the first stream that is replaced
 * @throws FaultError `conflict` when all is as the game has it, and what fitting says
 */
export async function takeFilm(
  gameId: number,
  { archiveId, n }: { readonly archiveId: number; readonly n: number },
  order: TakeOrder,
): Promise<number> {
  const {
    fileName,
    matchedBy = null,
    dropId,
    fitOptions = {},
    signal = new AbortController().signal,
    progress,
  } = order;
  const source = await filmSource(archiveId, n);
  if (source.is !== 'packets') throw new RangeError('no film of packets');
  const { film } = source;
  const near = film.streams.find(({ packets }) => packets.some((packet) => packet.n === n))?.number;
  const first = film.streams.find(({ is }) => is === 'pictures')?.packets[0];
  const like = first && (await withArchive(archiveId, (archive) => collect(readEntry(archive, first.n))));
  const given = await keptOf(order);
  const ids = await withTempDir(async (room) => {
    const fitted = await fitFilm({
      ...{ film, like, fileName, near, fitOptions: fitOptions.film ?? {}, room, signal },
      given: await blobIn(given, fileName, room),
      onMilliseconds: (done, total) => progress?.(done, total, 'milliseconds'),
    });
    const found: number[] = [];
    for (const one of fitted) {
      const rows = await rowsOf(archiveId, one, signal);
      if (rows.length === 0) continue;
      found.push(await keep(gameId, archiveId, rows, one.notes, { fileName, matchedBy, dropId, fitOptions, given }));
    }
    return found;
  });
  if (ids[0] !== undefined) return ids[0];
  throw new FaultError({ code: 'conflict', file: fileName, what: 'the file is the same as what the game has' });
}

/** What becomes of each packet of a stream: those that are alike are left alone. */
async function rowsOf(archiveId: number, { stream, packets }: FittedStream, signal: AbortSignal): Promise<Row[]> {
  return withArchive(archiveId, async (archive) => {
    const before = new Map(stream.packets.map((packet) => [packet.path, packet.n]));
    const rows: Row[] = [];
    for (const { time, read } of packets) {
      throwIfStopped(signal);
      const path = packetPath(archive, stream.number, time);
      const was = before.get(path);
      before.delete(path);
      const bytes = await read();
      const old = was === undefined ? undefined : await collect(readEntry(archive, was));
      if (old !== undefined && Buffer.compare(old, bytes) === 0) continue;
      const { sha256: blob, size } = await keepBytes(bytes);
      const base = old === undefined ? null : (await keepBytes(old)).sha256;
      rows.push({ path, action: old === undefined ? 'add' : 'replace', blob, size, base });
    }
    for (const [path, was] of before)
      rows.push({
        path,
        action: 'remove',
        blob: '',
        size: 0,
        base: (await keepBytes(await collect(readEntry(archive, was)))).sha256,
      });
    // What all others go with is one that the game has, where there is one.
    return rows.sort((a, b) => Number(b.action === 'replace') - Number(a.action === 'replace'));
  });
}

async function keep(
  gameId: number,
  archiveId: number,
  rows: readonly Row[],
  fitNotes: readonly Note[],
  facts: Pick<TakeOrder, 'fileName' | 'matchedBy' | 'dropId' | 'fitOptions'> & { given: string },
): Promise<number> {
  const { path: into } = (await ArchiveModel.findByPk(archiveId))!;
  const { fileName, matchedBy = null, dropId, fitOptions = {}, given } = facts;
  return database().transaction(async (transaction) => {
    for (const { path } of rows) await supersedeChange(gameId, path, transaction);
    // Packets that an earlier file added and this one does not have would otherwise stay.
    await setOthersAside(gameId, archiveId, rows[0]!.path, transaction);
    let main: number | null = null;
    for (const row of rows) {
      const made: ChangeModel = await ChangeModel.create(
        {
          ...{
            gameId,
            kind: 'film',
            fileName,
            dropId: dropId ?? null,
            matchedBy,
            fitNotes,
            given,
            fitOptions,
            withId: main,
          },
          ...row,
          intoArchive: row.action === 'add' ? into : null,
        },
        { transaction },
      );
      main ??= made.id;
    }
    return main!;
  });
}

async function setOthersAside(
  gameId: number,
  archiveId: number,
  path: string,
  transaction: Parameters<typeof supersedeChange>[2],
): Promise<void> {
  const active = await ChangeModel.findAll({
    where: { gameId, undone: false, modId: null, kind: 'film' },
    transaction,
  });
  const same = await withArchive(archiveId, async (archive) => {
    const stream = packetPlace(archive, path)?.stream;
    return active.filter((change) => packetPlace(archive, change.path)?.stream === stream);
  });
  for (const change of same) await supersedeChange(gameId, change.path, transaction);
}
