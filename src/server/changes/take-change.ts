/** A file becomes the change of an entry. */
import { FaultError } from '../../core/faults';
import { kindOf } from '../../core/game';
import { ChangeModel, database } from '../database';
import { entryBytes, findWinner, winnerBytes } from '../content';
import {
  entrySoundFormat,
  fitCue,
  fitMeshFile,
  fitPictureFiles,
  formOfBytes,
  isMeshFile,
  sizeIsFree,
  isPackedPicture,
  joinedPart,
  loopIsFree,
  recipeSound,
  pictureOfEntry,
  pictureOfHalf,
  type PictureFile,
  type PictureOfFiles,
} from '../forms';
import { writeRecipeSound } from '../../core/forms/sound';
import { blobIn, filmFileIn, filmSource, fitFilmFile, withTempDir, isForFilm } from '../films';
import { withArchive } from '../games';
import type { ChangeAnswer, FitOptions } from '../shapes';
import { keepBytes, openBlob, readBlob, sha256OfFile, type Blob } from '../storage';
import { changeOf, pictureOfChange, supersedeChange } from './change-service';
import { fit } from './fit';
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
  const { path, fileName, why = '', dropId, fitOptions = {}, signal = new AbortController().signal } = order;
  const winner = await findWinner(gameId, path);
  if (kindOf(path) === 'bytes' && kindOf(fileName) !== 'bytes') {
    // A half of a picture has no header that a picture could be made to fit: it comes with the whole.
    const whole = await pictureOfHalf(gameId, path);
    if (whole !== undefined) return takeChange(gameId, { ...order, path: whole });
  }
  if (isForFilm(fileName) && (await isFilmOfPackets(winner.archive)))
    return changeOf(gameId, await takeFilm(gameId, { archiveId: winner.archive, n: winner.n }, order));
  const { files, done, loop } =
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
          why,
          done,
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

export const isFilmOfPackets = (archive: number): Promise<boolean> =>
  withArchive(archive, ({ recipe }) => Promise.resolve(recipe.entries.film !== undefined));

/** The picture as it is changed now; undefined while it is not. */
async function shown(gameId: number, path: string): Promise<PictureOfFiles | undefined> {
  const active = await ChangeModel.findOne({ where: { gameId, path, undone: false } });
  return active === null ? undefined : pictureOfChange(gameId, active.withId ?? active.id);
}

interface Fitted {
  readonly files: readonly (PictureFile | { readonly path: string; readonly blob: Blob })[];
  readonly done: readonly string[];
  readonly loop?: readonly [number, number] | undefined;
}

/** What a film, a sound or subtitles make of a film file; nothing where it is the same. */
async function fittedFilm(
  { archive, n }: { archive: number; n: number },
  order: TakeOrder,
  signal: AbortSignal,
): Promise<Fitted> {
  const { path, fileName, fitOptions = {}, progress } = order;
  const source = await filmSource(archive, n);
  if (source.is !== 'file') throw new RangeError('packets have no file of their own');
  const kept = await keptOf(order);
  return withTempDir(async (room) => {
    const was = await filmFileIn(source, room);
    if ((await sha256OfFile(was)) === kept) return { files: [], done: [] };
    const { blob, done } = await fitFilmFile({
      ...{ path, was, fileName, signal, given: await blobIn(kept, fileName, room), fitOptions: fitOptions.film ?? {} },
      onMilliseconds: (at, total) => progress?.(at, total, 'milliseconds'),
    });
    return { files: [{ path, blob }], done };
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
): Promise<Fitted> {
  const original = await entryBytes(archive, n);
  if (Buffer.compare(original.bytes, dropped) === 0) return { files: [], done: [] };
  if (await isPackedPicture(original.bytes, path)) {
    const picture = await pictureOfEntry(archive, n);
    const { quality = 'best', chosen = false, ownSize = false } = fitOptions;
    const free = await sizeIsFree(archive);
    const how = { quality, chosen: chosen && free, ownSize: ownSize && free, signal };
    if (fitOptions.part === undefined) return fitPictureFiles(picture, dropped, fileName, how);
    const joined = await joinedPart((await shown(gameId, path)) ?? picture, dropped, fileName, fitOptions.part);
    const made = await fitPictureFiles(picture, joined, `${fileName}.png`, how);
    return {
      ...made,
      done: [`${fitOptions.part.suffix} of yours joined with the channels that are there`, ...made.done],
    };
  }
  const sound = await entrySoundFormat(archive, n);
  if (sound !== undefined) {
    const own = await recipeSound(original.bytes, path);
    const { bytes: samples, ...made } = await fitCue(sound, own?.samples ?? original.bytes, dropped, fileName, {
      ...fitOptions,
      loopIsFree: await loopIsFree(archive, n),
    });
    const bytes = own === undefined ? samples : await writeRecipeSound(own, samples);
    const same = Buffer.compare(original.bytes, bytes) === 0 && made.loop === undefined;
    return { files: same ? [] : [{ path, bytes }], ...made };
  }
  if (await isMeshFile(original.bytes, path)) {
    const { bytes, done } = await fitMeshFile(gameId, { path, bytes: original.bytes }, dropped, fileName, fitOptions);
    return { files: Buffer.compare(original.bytes, bytes) === 0 ? [] : [{ path, bytes }], done };
  }
  const form = await formOfBytes(original.bytes, path);
  const beside = (other: string) => winnerBytes(gameId, other);
  const { bytes, done } =
    form === undefined
      ? await fit(path, original.bytes, dropped, fileName, fitOptions)
      : await form.fit({ gameId, path, bytes: original.bytes, beside }, { bytes: dropped, fileName });
  if (Buffer.compare(original.bytes, bytes) === 0) return { files: [], done };
  return { files: [{ path, bytes }], done: [...done, ...(await danglingIn(gameId, path, bytes))] };
}
