import type { Note } from '../../core/notes';
import { Op, QueryTypes, type Transaction } from 'sequelize';
import { FaultError } from '../../core/faults';
import { mimeOf } from '../../core/game';
import { ChangeModel, database } from '../database';
import { findWinner, winnerBytes } from '../content';
import { settleNewFiles } from '../games';
import { bytesSubject, type Subject } from '../forms';
import type { ChangeAction, ChangeAnswer, ChangeEdit, ChangeStatus, FitOptions, KindName } from '../shapes';
import { openBlob } from '../storage';
import { acceptConflict } from './base';

/**
 * The changes of a game, undone ones too: they can be redone. A change that belongs to another is listed with it.
 *
 * @param most how many of the newest; all of them without it
 */
export const listChanges = (gameId: number, most?: number): Promise<ChangeAnswer[]> =>
  selectChanges(gameId, null, most);

/** @param id only that one, when it is given */
async function selectChanges(gameId: number, id: number | null, most?: number): Promise<ChangeAnswer[]> {
  const rows = await database().query<ChangeRow>(
    `select c.*, e.size::float8 as before, e.archive_id as archive, e.kind as entry_kind,
            array(select w.path from changes w where w.with_id = c.id order by w.path) as companions,
            (select count(*)::int from changes d where d.drop_id = c.drop_id and d.with_id is null and not d.undone) as drop_count,
            (select l.text from labels l where l.game_id = c.game_id and l.path = c.path) as label
     from changes c left join entries e on e.game_id = c.game_id and e.path = c.path and e.wins
     where c.game_id = :gameId and c.mod_id is null and c.with_id is null and (:id::int is null or c.id = :id) order by c.undone, c.id desc limit :most`,
    { replacements: { gameId, id, most: most ?? null }, type: QueryTypes.SELECT },
  );
  return rows.map((row) => ({
    id: row.id,
    action: row.action,
    status: row.status,
    hasBase: row.base !== null,
    path: row.path,
    companions: row.companions,
    kind: row.entry_kind ?? row.kind,
    fileName: row.file_name,
    size: Number(row.size),
    before: row.before,
    archive: row.archive,
    undone: row.undone,
    drop: row.drop_id,
    dropCount: row.drop_count,
    matchedBy: row.matched_by,
    fitNotes: row.fit_notes,
    note: row.note,
    label: row.label,
    fitOptions: row.given === null ? null : row.fit_options,
    createdAt: row.created_at.toISOString(),
  }));
}

interface ChangeRow {
  readonly id: number;
  readonly action: ChangeAction;
  readonly status: ChangeStatus;
  readonly base: string | null;
  readonly path: string;
  readonly kind: KindName;
  readonly entry_kind: KindName | null;
  readonly file_name: string;
  readonly size: string;
  readonly undone: boolean;
  readonly drop_id: number | null;
  readonly drop_count: number;
  readonly matched_by: Note | null;
  readonly fit_notes: readonly Note[];
  readonly note: string;
  readonly label: string | null;
  readonly given: string | null;
  readonly fit_options: FitOptions;
  readonly created_at: Date;
  readonly before: number | null;
  readonly archive: number | null;
  readonly companions: string[];
}

/**
 * The change in the place of another, and what goes with it, stays as an undone one: it can be brought back.
 *
 * @param by the drop that brings the other one: when that is undone as a whole, this one comes back
 */
export async function supersedeChange(
  gameId: number,
  path: string,
  transaction: Transaction,
  by: number | null = null,
): Promise<void> {
  const [active] = await ChangeModel.findAll({ where: { gameId, path, undone: false, modId: null }, transaction });
  if (active !== undefined) await setTogether(active, true, transaction, by);
}

/** Undoes a change, or brings it back, with all that goes with it. */
async function setTogether(
  one: ChangeModel,
  undone: boolean,
  transaction: Transaction,
  by: number | null = null,
): Promise<void> {
  const main = one.withId ?? one.id;
  const now = { undone, supersededBy: undone ? by : null };
  await ChangeModel.update(now, { where: { [Op.or]: [{ id: main }, { withId: main }] }, transaction });
}

/** Undoes a change, brings it back, or notes something on it. @throws FaultError `not-found` */
export async function editChange(
  gameId: number,
  id: number,
  { undone, note, keep }: ChangeEdit,
): Promise<ChangeAnswer> {
  if (keep === true) await acceptConflict(gameId, id);
  if (note !== undefined) await ChangeModel.update({ note: note.trim() }, { where: { gameId, id } });
  if (undone !== undefined) return setUndone(gameId, id, undone);
  return changeOf(gameId, id);
}

/**
 * Undoes everything that came with one drop, and brings back what it took the place of.
 *
 * @returns how many changes were undone
 */
export async function undoDrop(gameId: number, dropId: number): Promise<{ undone: number }> {
  const undone = await database().transaction(async (transaction) => {
    const [count] = await ChangeModel.update(
      { undone: true, supersededBy: null },
      { where: { gameId, dropId, undone: false }, transaction },
    );
    await database().query(
      `update changes c set undone = false, superseded_by = null
       where c.game_id = $1 and c.superseded_by = $2 and c.drop_id is distinct from $2 and not exists (
         select 1 from changes o where o.game_id = $1 and o.path = c.path and not o.undone and o.mod_id is null
       )`,
      { bind: [gameId, dropId], transaction },
    );
    return count;
  });
  await settleNewFiles(gameId);
  return { undone };
}

/** @throws FaultError `not-found` */
export async function changeOf(gameId: number, id: number): Promise<ChangeAnswer> {
  const [change] = await selectChanges(gameId, id);
  if (change !== undefined) return change;
  throw new FaultError({ code: 'not-found', what: 'there is no such change' });
}

/** Undoes a change or brings it back; bringing one back sets aside the one that is in its place. */
export async function setUndone(gameId: number, id: number, undone: boolean): Promise<ChangeAnswer> {
  const main = await database().transaction(async (transaction) => {
    const change = await ChangeModel.findOne({ where: { gameId, id }, transaction });
    if (change === null) throw new FaultError({ code: 'not-found', what: 'there is no such change' });
    const first = change.withId ?? change.id;
    if (!undone) {
      const own = await ChangeModel.findAll({ where: { [Op.or]: [{ id: first }, { withId: first }] }, transaction });
      for (const { path } of own) await supersedeChange(gameId, path, transaction);
    }
    await setTogether(change, undone, transaction);
    return first;
  });
  await settleNewFiles(gameId);
  return changeOf(gameId, main);
}

/** The bytes of a change, as they go into the game. */
export async function changeBytes(
  gameId: number,
  id: number,
): Promise<{ bytes: Uint8Array; mime: string; path: string; loop: ChangeModel['loop'] }> {
  const change = await ChangeModel.findOne({ where: { gameId, id } });
  if (change === null) throw new FaultError({ code: 'not-found', what: 'there is no such change' });
  const source = await openBlob(change.blob, change.fileName);
  try {
    const bytes = await source.read(0, source.size);
    return { bytes, path: change.path, loop: change.loop, mime: mimeOf(change.path, bytes.subarray(0, 64)) };
  } finally {
    await source.close();
  }
}

/** What the game had when a change was made. @throws FaultError `not-found` when it is not kept */
export async function baseBytes(
  gameId: number,
  id: number,
): Promise<{ bytes: Uint8Array; mime: string; path: string }> {
  const change = await ChangeModel.findOne({ where: { gameId, id } });
  if (change?.base == null)
    throw new FaultError({ code: 'not-found', what: 'what the game had when the change was made is not kept' });
  const source = await openBlob(change.base, change.path);
  const bytes = await source.read(0, source.size).finally(() => source.close());
  return { bytes, path: change.path, mime: mimeOf(change.path, bytes.subarray(0, 64)) };
}

/**
 * A change, or what the game had when it was made, as its form reads it: with its other halves, changed or as they were.
 *
 * @throws FaultError `not-found`
 */
export async function changeSubject(gameId: number, id: number, which: 'change' | 'base'): Promise<Subject> {
  const isChange = which === 'change';
  const { bytes, path, loop } = isChange
    ? await changeBytes(gameId, id)
    : { ...(await baseBytes(gameId, id)), loop: null };
  const entry = await findWinner(gameId, path).catch(() => undefined);
  const companion = async (other: string) => {
    const own = await ChangeModel.findOne({ where: { gameId, path: other, withId: id } });
    if (own !== null && isChange) return (await changeBytes(gameId, own.id)).bytes;
    if (own?.base != null) return (await baseBytes(gameId, own.id)).bytes;
    return winnerBytes(gameId, other);
  };
  return bytesSubject({ gameId, path, entry, companion, loop: loop ?? undefined }, bytes);
}
