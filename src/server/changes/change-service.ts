import { Op, QueryTypes, type Transaction } from 'sequelize';
import { collect } from '../../core/bytes';
import { openFile } from '../../core/bytes/node';
import { FaultError } from '../../core/faults';
import { decodeSound, writeWav } from '../../core/forms/sound';
import { kindOf, mimeOf } from '../../core/game';
import { ChangeModel, database } from '../database';
import { entryBytes, findWinner } from '../entries';
import {
  entrySoundFormat,
  fitPictureFiles,
  fitSoundTo,
  isPackedPicture,
  pictureOfEntry,
  pictureOfFiles,
  type PictureFile,
  type PictureOfFiles,
} from '../forms';
import type { ChangeAnswer, KindName } from '../shapes';
import { blobPath, keepBlob } from '../storage';
import { fit } from './fit';

/** The largest file that is taken as a change through the page. */
const MAX_CHANGE_BYTES = 64 << 20;

/** All changes of a game, undone ones too: they can be brought back. What goes with another is told with that. */
export async function listChanges(gameId: number): Promise<ChangeAnswer[]> {
  const rows = await database().query<ChangeRow>(
    `select c.*, e.size::float8 as before, e.archive_id as archive, e.kind as entry_kind,
            array(select w.path from changes w where w.with_id = c.id order by w.path) as beside
     from changes c left join entries e on e.game_id = c.game_id and e.path = c.path and e.wins
     where c.game_id = :gameId and c.with_id is null order by c.undone, c.id desc`,
    { replacements: { gameId }, type: QueryTypes.SELECT },
  );
  return rows.map((row) => ({
    id: row.id,
    path: row.path,
    beside: row.beside,
    packed: row.entry_kind === 'picture' && !/\.(png|jpe?g|webp|gif)$/i.test(row.path),
    told: row.entry_kind === 'sound' && !/\.(wav|ogg|flac|mp3)$/i.test(row.path),
    kind: row.entry_kind ?? row.kind,
    fileName: row.file_name,
    size: Number(row.size),
    before: row.before,
    archive: row.archive,
    undone: row.undone,
    createdAt: row.created_at.toISOString(),
  }));
}

interface ChangeRow {
  readonly id: number;
  readonly path: string;
  readonly kind: KindName;
  readonly entry_kind: KindName | null;
  readonly file_name: string;
  readonly size: string;
  readonly undone: boolean;
  readonly created_at: Date;
  readonly before: number | null;
  readonly archive: number | null;
  readonly beside: string[];
}

/**
 * Takes a dropped file in as a change. Without a path, the entry is found by the file's name.
 *
 * @returns the change, and what was done to the file to make it fit
 * @throws FaultError `wrong-kind`, `no-such-entry`, or `conflict` when several entries have that name
 */
export async function takeChange(
  gameId: number,
  order: { path?: string | undefined; fileName: string; bytes: AsyncIterable<Uint8Array> },
): Promise<{ change: ChangeAnswer; done: readonly string[] }> {
  const path = order.path ?? (await pathByName(gameId, order.fileName));
  const winner = await findWinner(gameId, path);
  const dropped = await collect(limited(order.bytes));
  const { files, done } = await fitted(winner, path, dropped, order.fileName);
  if (files.length === 0) {
    throw new FaultError({
      code: 'conflict',
      file: order.fileName,
      entry: path,
      what: 'the file is the same as what the game has',
      hint: 'Was the edited one saved?',
    });
  }
  const blobs = await Promise.all(files.map(({ bytes }) => keepBlob(once(bytes))));
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
          fileName: order.fileName,
          withId: main,
        },
        { transaction },
      );
      main ??= made.id;
    }
    return main!;
  });
  const change = (await listChanges(gameId)).find((one) => one.id === id)!;
  return { change, done };
}

/** What a dropped file makes of the entry it is for, and of those that hold parts of it; nothing where it is the same. */
async function fitted(
  { archive, n }: { archive: number; n: number },
  path: string,
  dropped: Uint8Array,
  fileName: string,
): Promise<{ files: readonly PictureFile[]; done: readonly string[] }> {
  const original = await entryBytes(archive, n);
  if (Buffer.compare(original.bytes, dropped) === 0) return { files: [], done: [] };
  if (await isPackedPicture(original.bytes, path)) {
    const picture = await pictureOfEntry(archive, n);
    return fitPictureFiles(picture, dropped, fileName);
  }
  const sound = await entrySoundFormat(archive, n);
  if (sound !== undefined) {
    const made = await fitSoundTo(sound, dropped, fileName);
    const same = Buffer.compare(original.bytes, made.bytes) === 0;
    return { files: same ? [] : [{ path, bytes: made.bytes }], done: made.done };
  }
  const { bytes, done } = await fit(path, original.bytes, dropped, fileName);
  return { files: Buffer.compare(original.bytes, bytes) === 0 ? [] : [{ path, bytes }], done };
}

/** The change in the place of another, and what goes with it, stays as an undone one: it can be brought back. */
async function setAside(gameId: number, path: string, transaction: Transaction): Promise<void> {
  const [active] = await ChangeModel.findAll({ where: { gameId, path, undone: false }, transaction });
  if (active !== undefined) await setTogether(active, true, transaction);
}

/** Undoes a change, or brings it back, with all that goes with it. */
async function setTogether(one: ChangeModel, undone: boolean, transaction: Transaction): Promise<void> {
  const main = one.withId ?? one.id;
  await ChangeModel.update({ undone }, { where: { [Op.or]: [{ id: main }, { withId: main }] }, transaction });
}

async function pathByName(gameId: number, fileName: string): Promise<string> {
  const found = await database().query<{ path: string; kind: KindName }>(
    `select path, kind from entries where game_id = :gameId and wins and (lower(name collate "default") = lower(:name) or (lower(split_part(name collate "default", '.', 1)) = lower(:stem)))
     order by (lower(name collate "default") = lower(:name)) desc, path limit 6`,
    { replacements: { gameId, name: fileName, stem: fileName.replace(/\.[^.]*$/, '') }, type: QueryTypes.SELECT },
  );
  const exact = found.filter(
    ({ path }) => path.slice(path.lastIndexOf('/') + 1).toLowerCase() === fileName.toLowerCase(),
  );
  // A picture is for a picture: its other half has the same name and is none.
  const alike = found.filter(({ kind }) => kind === kindOf(fileName));
  const fitting = exact.length > 0 ? exact : alike.length > 0 ? alike : found;
  const [only] = fitting;
  if (only === undefined) {
    throw new FaultError({
      code: 'no-such-entry',
      file: fileName,
      what: 'no entry has that name',
      hint: 'Drop it on the entry it is for, or give it the name of the entry.',
    });
  }
  if (fitting.length > 1) {
    throw new FaultError({
      code: 'conflict',
      file: fileName,
      what: 'several entries have that name',
      found: fitting.map(({ path }) => path).join(', '),
      hint: 'Drop it on the one you mean, in Find.',
    });
  }
  return only.path;
}

/** Undoes a change or brings it back; bringing one back sets aside the one that is in its place. */
export async function setUndone(gameId: number, id: number, undone: boolean): Promise<ChangeAnswer> {
  const main = await database().transaction(async (transaction) => {
    const change = await ChangeModel.findOne({ where: { gameId, id }, transaction });
    if (change === null) throw new FaultError({ code: 'not-found', what: 'there is no such change' });
    const first = change.withId ?? change.id;
    if (!undone) {
      const own = await ChangeModel.findAll({ where: { [Op.or]: [{ id: first }, { withId: first }] }, transaction });
      for (const { path } of own) await setAside(gameId, path, transaction);
    }
    await setTogether(change, undone, transaction);
    return first;
  });
  return (await listChanges(gameId)).find((one) => one.id === main)!;
}

/** The bytes of a change, as they go into the game. */
export async function changeBytes(
  gameId: number,
  id: number,
): Promise<{ bytes: Uint8Array; mime: string; path: string }> {
  const change = await ChangeModel.findOne({ where: { gameId, id } });
  if (change === null) throw new FaultError({ code: 'not-found', what: 'there is no such change' });
  const source = await openFile(blobPath(change.blob), change.fileName);
  try {
    const bytes = await source.read(0, source.size);
    return { bytes, path: change.path, mime: mimeOf(change.path, bytes.subarray(0, 64)) };
  } finally {
    await source.close();
  }
}

/** A changed picture, as the game will have it: with its other halves, changed or not. */
export async function pictureOfChange(gameId: number, id: number): Promise<PictureOfFiles> {
  const { bytes, path } = await changeBytes(gameId, id);
  return pictureOfFiles({ path, bytes }, async (beside) => {
    const own = await ChangeModel.findOne({ where: { gameId, path: beside, withId: id } });
    if (own !== null) return (await changeBytes(gameId, own.id)).bytes;
    const winner = await findWinner(gameId, beside).catch(() => undefined);
    return winner === undefined ? undefined : (await entryBytes(winner.archive, winner.n)).bytes;
  });
}

/** A changed sound without a header as WAVE, as the game will have it. */
export async function soundOfChange(
  gameId: number,
  id: number,
): Promise<{ bytes: Uint8Array; mime: string; path: string }> {
  const { bytes, path } = await changeBytes(gameId, id);
  const winner = await findWinner(gameId, path);
  const format = await entrySoundFormat(winner.archive, winner.n);
  if (format === undefined)
    throw new FaultError({ code: 'wrong-kind', entry: path, what: 'nothing tells what kind of sound this is' });
  return { bytes: writeWav(decodeSound(bytes, format, path), format.loop), mime: 'audio/wav', path: `${path}.wav` };
}

async function* limited(bytes: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  let total = 0;
  for await (const chunk of bytes) {
    total += chunk.length;
    if (total > MAX_CHANGE_BYTES)
      throw new FaultError({
        code: 'limit-reached',
        what: 'the file is too large',
        limit: `bytes of one dropped file, ${MAX_CHANGE_BYTES.toLocaleString('en')}`,
      });
    yield chunk;
  }
}

async function* once(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}
