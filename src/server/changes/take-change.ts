/** A file becomes the change of an entry. */
import { QueryTypes } from 'sequelize';
import type { Note } from '../../core/notes';
import { FaultError } from '../../core/faults';
import { kindOf } from '../../core/game';
import { followLink } from '../../core/recipe';
import { ChangeModel, database } from '../database';
import { findWinner } from '../content';
import { asItself, entrySubject, formOf, pictureOfHalf, type Subject } from '../forms';
import { blobIn, filmFileIn, filmSource, fitFilmFile, withTempDir, isForFilm } from '../forms/film';
import { withArchive } from '../games';
import type { ChangeAnswer, FitOptions } from '../shapes';
import { keepBytes, openBlob, readBlob, sha256OfFile, type Blob } from '../storage';
import { changeOf, changeSubject, supersedeChange } from './change-service';
import { keepBase } from './base';
import { danglingIn } from '../records';
import { takeFilm } from './take-film';
import { keptOf, MAX_CHANGE_BYTES, type Given, type TakeOrder } from './take-order';

async function bytesOf(given: Given, fileName: string): Promise<Uint8Array> {
  if ('bytes' in given) return given.bytes;
  const source = await openBlob(given.kept, fileName);
  await source.close();
  const { size } = source;
  if (size <= MAX_CHANGE_BYTES) return readBlob(given.kept);
  throw new FaultError({
    code: 'limit-reached',
    file: fileName,
    what: 'the file is too large to be taken as a change',
    found: `${size.toLocaleString('en')} bytes`,
    limit: `bytes of a changed entry that is no film, ${MAX_CHANGE_BYTES.toLocaleString('en')}`,
  });
}

/**
 * Makes a file fit and takes it in as a change, in the place of the one there was.
 *
 * @throws FaultError `wrong-kind` when it cannot be made to fit, `no-such-entry`, or `conflict` when it is what the game has
 */
export async function takeChange(gameId: number, order: TakeOrder): Promise<ChangeAnswer> {
  const { path, fileName, matchedBy = null, dropId, fitOptions = {}, signal = new AbortController().signal } = order;
  const winner = await findWinner(gameId, path);
  const linked = await linkedEntry(winner.archive, winner.n);
  if (linked !== undefined) return takeChange(gameId, { ...order, path: linked });
  if (kindOf(path) === 'bytes' && kindOf(fileName) !== 'bytes') {
    // A half of a picture has no header that a picture could be made to fit: it comes with the whole.
    const whole = await pictureOfHalf(gameId, path);
    if (whole !== undefined) return takeChange(gameId, { ...order, path: whole });
  }
  if (isForFilm(fileName) && (await isFilmOfPackets(winner.archive)))
    return changeOf(gameId, await takeFilm(gameId, { archiveId: winner.archive, n: winner.n }, order));
  const { files, notes, loop } =
    kindOf(path) === 'film'
      ? await fittedFilm(winner, order, signal)
      : await fitted(gameId, winner, path, await bytesOf(order, fileName), fileName, { fitOptions, signal });
  if (files.length === 0) {
    throw new FaultError({
      code: 'conflict',
      file: fileName,
      entry: path,
      what: 'the file is the same as what the game has',
      hint: 'Was the edited one saved?',
    });
  }
  const given = await keptOf(order);
  const blobs = await Promise.all(files.map((file) => ('blob' in file ? file.blob : keepBytes(file.bytes))));
  const bases = await Promise.all(files.map((file) => keepBase(gameId, file.path)));
  const id = await database().transaction(async (transaction) => {
    for (const file of files) await supersedeChange(gameId, file.path, transaction, dropId ?? null);
    let main: number | null = null;
    for (const [i, file] of files.entries()) {
      const made: ChangeModel = await ChangeModel.create(
        {
          gameId,
          path: file.path,
          kind: 'blob' in file ? kindOf(file.path) : kindOf(file.path, file.bytes),
          blob: blobs[i]!.sha256,
          size: blobs[i]!.size,
          fileName,
          withId: main,
          dropId: dropId ?? null,
          matchedBy,
          fitNotes: notes,
          given,
          base: bases[i]!,
          loop: main === null ? (loop ?? null) : null,
          fitOptions,
        },
        { transaction },
      );
      main ??= made.id;
    }
    return main!;
  });
  return changeOf(gameId, id);
}

/** The path in the game of the entry whose bytes a link has; undefined for what is no link. */
async function linkedEntry(archiveId: number, n: number): Promise<string | undefined> {
  const holder = await withArchive(archiveId, (archive) =>
    Promise.resolve(archive.entries.link(n) === undefined ? undefined : followLink(archive, n)),
  );
  if (holder === undefined) return undefined;
  const [row] = await database().query<{ path: string }>('select path from entries where archive_id = $1 and n = $2', {
    bind: [archiveId, holder],
    type: QueryTypes.SELECT,
  });
  return row?.path;
}

export const isFilmOfPackets = (archive: number): Promise<boolean> =>
  withArchive(archive, ({ recipe }) => Promise.resolve(recipe.entries.film !== undefined));

/** The entry as it is changed now; undefined while it is not. */
async function changedNow(gameId: number, path: string): Promise<Subject | undefined> {
  const active = await ChangeModel.findOne({ where: { gameId, path, undone: false } });
  return active === null ? undefined : changeSubject(gameId, active.withId ?? active.id, 'change');
}

interface FittedChange {
  readonly files: readonly ({ readonly path: string } & ({ readonly bytes: Uint8Array } | { readonly blob: Blob }))[];
  readonly notes: readonly Note[];
  readonly loop?: readonly [number, number] | undefined;
}

/** What a film, a sound or subtitles make of a film file; nothing where it is the same. */
async function fittedFilm(
  { archive, n }: { archive: number; n: number },
  order: TakeOrder,
  signal: AbortSignal,
): Promise<FittedChange> {
  const { path, fileName, fitOptions = {}, progress } = order;
  const source = await filmSource(archive, n);
  if (source.is !== 'file') throw new RangeError('packets have no file of their own');
  const kept = await keptOf(order);
  return withTempDir(async (room) => {
    const was = await filmFileIn(source, room);
    if ((await sha256OfFile(was)) === kept) return { files: [], notes: [] };
    const { blob, notes } = await fitFilmFile({
      ...{ path, was, fileName, signal, given: await blobIn(kept, fileName, room), fitOptions: fitOptions.film ?? {} },
      onMilliseconds: (at, total) => progress?.(at, total, 'milliseconds'),
    });
    return { files: [{ path, blob }], notes };
  });
}

/** What a file makes of the entry it is for, and of those that hold parts of it; nothing where it is the same. */
async function fitted(
  gameId: number,
  { archive, n }: { archive: number; n: number },
  path: string,
  dropped: Uint8Array,
  fileName: string,
  { fitOptions, signal }: { readonly fitOptions: FitOptions; readonly signal: AbortSignal },
): Promise<FittedChange> {
  const subject = asItself(await entrySubject(archive, n));
  const original = await subject.bytes();
  if (Buffer.compare(original, dropped) === 0) return { files: [], notes: [] };
  if (dropped.length === 0)
    throw new FaultError({
      code: 'wrong-kind',
      file: fileName,
      what: 'the file is empty',
      hint: 'Was it still being written?',
    });
  const changed = () => changedNow(gameId, path);
  const { files, notes, loop } = (await formOf(subject)?.fit?.(
    { ...subject, bytes: () => Promise.resolve(original) },
    { bytes: dropped, fileName, fitOptions, signal, changed },
  )) ?? { files: [{ path, bytes: dropped }], notes: [] };
  const isSame = (file: { path: string; bytes: Uint8Array }) =>
    file.path === path && loop === undefined && Buffer.compare(original, file.bytes) === 0;
  const kept = files.filter((file) => !isSame(file));
  const own = kept.find((file) => file.path === path);
  const dangling = own === undefined ? [] : await danglingIn(gameId, path, own.bytes);
  return { files: kept, notes: [...notes, ...dangling], loop };
}
