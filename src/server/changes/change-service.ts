import { QueryTypes } from 'sequelize';
import { collect } from '../../core/bytes';
import { openFile } from '../../core/bytes/node';
import { FaultError } from '../../core/faults';
import { kindOf, mimeOf } from '../../core/game';
import { ChangeModel, database } from '../database';
import { entryBytes, findWinner } from '../entries';
import type { ChangeAnswer, KindName } from '../shapes';
import { blobPath, keepBlob } from '../storage';
import { fit } from './fit';

/** The largest file that is taken as a change through the page. */
const MAX_CHANGE_BYTES = 64 << 20;

/** All changes of a game, undone ones too: they can be brought back. */
export async function listChanges(gameId: number): Promise<ChangeAnswer[]> {
  const rows = await database().query<ChangeModel & { before: number | null; archive: number | null }>(
    `select c.*, e.size::float8 as before, e.archive_id as archive from changes c
     left join entries e on e.game_id = c.game_id and e.path = c.path and e.wins
     where c.game_id = :gameId order by c.undone, c.id desc`,
    { replacements: { gameId }, type: QueryTypes.SELECT },
  );
  return rows.map((row) => {
    const raw = row as unknown as {
      id: number;
      path: string;
      kind: KindName;
      file_name: string;
      size: string;
      undone: boolean;
      created_at: Date;
      before: number | null;
      archive: number | null;
    };
    return {
      id: raw.id,
      path: raw.path,
      kind: raw.kind,
      fileName: raw.file_name,
      size: Number(raw.size),
      before: raw.before,
      archive: raw.archive,
      undone: raw.undone,
      createdAt: raw.created_at.toISOString(),
    };
  });
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
  const original = await entryBytes(winner.archive, winner.n);
  const fitted = await fit(path, original.bytes, dropped, order.fileName);
  if (Buffer.compare(original.bytes, fitted.bytes) === 0) {
    throw new FaultError({
      code: 'conflict',
      file: order.fileName,
      entry: path,
      what: 'the file is the same as what the game has',
      hint: 'Was the edited one saved?',
    });
  }
  const blob = await keepBlob(once(fitted.bytes));
  const id = await database().transaction(async (transaction) => {
    // The one before stays as an undone change: it can be brought back.
    await ChangeModel.update({ undone: true }, { where: { gameId, path, undone: false }, transaction });
    const made = await ChangeModel.create(
      {
        gameId,
        path,
        kind: kindOf(path, original.bytes),
        blob: blob.sha256,
        size: blob.size,
        fileName: order.fileName,
      },
      { transaction },
    );
    return made.id;
  });
  const change = (await listChanges(gameId)).find((one) => one.id === id)!;
  return { change, done: fitted.done };
}

async function pathByName(gameId: number, fileName: string): Promise<string> {
  const found = await database().query<{ path: string }>(
    `select path from entries where game_id = :gameId and wins and (lower(name collate "default") = lower(:name) or (lower(split_part(name collate "default", '.', 1)) = lower(:stem)))
     order by (lower(name collate "default") = lower(:name)) desc, path limit 6`,
    { replacements: { gameId, name: fileName, stem: fileName.replace(/\.[^.]*$/, '') }, type: QueryTypes.SELECT },
  );
  const exact = found.filter(
    ({ path }) => path.slice(path.lastIndexOf('/') + 1).toLowerCase() === fileName.toLowerCase(),
  );
  const fitting = exact.length > 0 ? exact : found;
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
  await database().transaction(async (transaction) => {
    const change = await ChangeModel.findOne({ where: { gameId, id }, transaction });
    if (change === null) throw new FaultError({ code: 'not-found', what: 'there is no such change' });
    if (!undone)
      await ChangeModel.update({ undone: true }, { where: { gameId, path: change.path, undone: false }, transaction });
    await change.update({ undone }, { transaction });
  });
  return (await listChanges(gameId)).find((one) => one.id === id)!;
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
