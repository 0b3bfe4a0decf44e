/** A file becomes the change of an entry. */
import { FaultError } from '../../core/faults';
import { kindOf } from '../../core/game';
import { ChangeModel, database } from '../database';
import { entryBytes, findWinner } from '../entries';
import {
  entrySoundFormat,
  fitCue,
  fitMeshFile,
  fitPictureFiles,
  isMeshFile,
  sizeIsFree,
  isPackedPicture,
  joinedPart,
  loopIsFree,
  pictureOfEntry,
  type PictureFile,
  type PictureOfFiles,
} from '../forms';
import { fitFilmFile, isForFilm } from '../films';
import { withArchive } from '../games';
import type { ChangeAnswer, FitWishes } from '../shapes';
import { keepBytes } from '../storage';
import { changeOf, pictureOfChange, setAside } from './change-service';
import { fit } from './fit';
import { keepBase } from './base';
import { danglingIn } from '../records/tables';
import { takeFilm } from './take-film';

export interface TakeOrder {
  /** The entry it is for. */
  readonly path: string;
  readonly fileName: string;
  readonly bytes: Uint8Array;
  /** How the file found its entry. */
  readonly why?: string;
  readonly dropId?: number;
  readonly wishes?: FitWishes;
  readonly signal?: AbortSignal;
  /** Told how far a conversion is that takes its time. */
  readonly progress?: (done: number, total: number, unit: 'milliseconds') => void;
}

/**
 * Makes a file fit and takes it in as a change, in the place of the one there was.
 *
 * @throws FaultError `wrong-kind` when it cannot be made to fit, `no-such-entry`, or `conflict` when it is what the game has
 */
export async function takeChange(gameId: number, order: TakeOrder): Promise<ChangeAnswer> {
  const { path, fileName, bytes, why = '', dropId, wishes = {}, signal = new AbortController().signal } = order;
  const winner = await findWinner(gameId, path);
  if (isForFilm(fileName) && (await isFilmOfPackets(winner.archive)))
    return changeOf(gameId, await takeFilm(gameId, { archiveId: winner.archive, n: winner.n }, order));
  const { files, done, loop } = await fitted(gameId, winner, path, bytes, fileName, {
    wishes,
    signal,
    progress: order.progress,
  });
  if (files.length === 0) {
    throw new FaultError({
      code: 'conflict',
      file: fileName,
      entry: path,
      what: 'the file is the same as what the game has',
      hint: 'Was the edited one saved?',
    });
  }
  const given = await keepBytes(bytes);
  const blobs = await Promise.all(files.map((file) => keepBytes(file.bytes)));
  const bases = await Promise.all(files.map((file) => keepBase(gameId, file.path)));
  const id = await database().transaction(async (transaction) => {
    for (const file of files) await setAside(gameId, file.path, transaction);
    let main: number | null = null;
    for (const [i, file] of files.entries()) {
      const made: ChangeModel = await ChangeModel.create(
        {
          gameId,
          path: file.path,
          kind: kindOf(file.path, file.bytes),
          blob: blobs[i]!.sha256,
          size: blobs[i]!.size,
          fileName,
          withId: main,
          dropId: dropId ?? null,
          why,
          done,
          given: given.sha256,
          base: bases[i]!,
          loop: main === null ? (loop ?? null) : null,
          wishes,
        },
        { transaction },
      );
      main ??= made.id;
    }
    return main!;
  });
  return changeOf(gameId, id);
}

const isFilmOfPackets = (archive: number): Promise<boolean> =>
  withArchive(archive, ({ recipe }) => Promise.resolve(recipe.entries.film !== undefined));

/** The picture as it is changed now; undefined while it is not. */
async function shown(gameId: number, path: string): Promise<PictureOfFiles | undefined> {
  const active = await ChangeModel.findOne({ where: { gameId, path, undone: false } });
  return active === null ? undefined : pictureOfChange(gameId, active.withId ?? active.id);
}

/** What a file makes of the entry it is for, and of those that hold parts of it; nothing where it is the same. */
async function fitted(
  gameId: number,
  { archive, n }: { archive: number; n: number },
  path: string,
  dropped: Uint8Array,
  fileName: string,
  {
    wishes,
    signal,
    progress,
  }: { readonly wishes: FitWishes; readonly signal: AbortSignal; readonly progress: TakeOrder['progress'] },
): Promise<{ files: readonly PictureFile[]; done: readonly string[]; loop?: readonly [number, number] | undefined }> {
  const original = await entryBytes(archive, n);
  if (Buffer.compare(original.bytes, dropped) === 0) return { files: [], done: [] };
  if (await isPackedPicture(original.bytes, path)) {
    const picture = await pictureOfEntry(archive, n);
    const { quality = 'best', chosen = false, ownSize = false } = wishes;
    const free = await sizeIsFree(archive);
    const how = { quality, chosen: chosen && free, ownSize: ownSize && free, signal };
    if (wishes.part === undefined) return fitPictureFiles(picture, dropped, fileName, how);
    const joined = await joinedPart((await shown(gameId, path)) ?? picture, dropped, fileName, wishes.part);
    const made = await fitPictureFiles(picture, joined, `${fileName}.png`, how);
    return { ...made, done: [`${wishes.part.suffix} of yours joined with the channels that are there`, ...made.done] };
  }
  const sound = await entrySoundFormat(archive, n);
  if (sound !== undefined) {
    const { bytes, ...made } = await fitCue(sound, original.bytes, dropped, fileName, {
      ...wishes,
      loopIsFree: await loopIsFree(archive, n),
    });
    const same = Buffer.compare(original.bytes, bytes) === 0 && made.loop === undefined;
    return { files: same ? [] : [{ path, bytes }], ...made };
  }
  if (await isMeshFile(original.bytes, path)) {
    const { bytes, done } = await fitMeshFile(gameId, { path, bytes: original.bytes }, dropped, fileName, wishes);
    return { files: Buffer.compare(original.bytes, bytes) === 0 ? [] : [{ path, bytes }], done };
  }
  if (kindOf(path, original.bytes) === 'film') {
    const made = await fitFilmFile(path, original.bytes, dropped, fileName, {
      wishes: wishes.film ?? {},
      signal,
      onMilliseconds: (at, total) => progress?.(at, total, 'milliseconds'),
    });
    return { files: [{ path, bytes: made.bytes }], done: made.done };
  }
  const { bytes, done } = await fit(path, original.bytes, dropped, fileName, wishes);
  if (Buffer.compare(original.bytes, bytes) === 0) return { files: [], done };
  return { files: [{ path, bytes }], done: [...done, ...(await danglingIn(gameId, path, bytes))] };
}
