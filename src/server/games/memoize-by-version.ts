/** What is worked out of all changes of a game, kept for as long as they are the same ones. */
import { QueryTypes } from 'sequelize';
import { database } from '../database';
import { onePerProcess } from '../one-per-process';

/**
 * Tells the changes and mods of a game from what they were: every row says which transaction wrote it last, so whatever is
 * added, changed or gone makes another sum.
 */
export async function changesStamp(gameId: number): Promise<string> {
  const [row] = await database().query<{ stamp: string }>(
    `select concat_ws(' ', count(*), sum(xmin::text::bigint),
            (select concat_ws(' ', count(*), sum(xmin::text::bigint)) from mods where game_id = :gameId)) as stamp
     from changes where game_id = :gameId`,
    { replacements: { gameId }, type: QueryTypes.SELECT },
  );
  return row!.stamp;
}

interface Kept {
  readonly stamp: string;
  readonly value: Promise<unknown>;
}

/** Answers that are kept in memory. */
const MOST_KEPT = 64;

/** @param what names the answer, with all that it depends on besides the changes */
export async function memoizeByVersion<T>(gameId: number, what: string, work: () => Promise<T>): Promise<T> {
  const kept = onePerProcess('while-unchanged', () => new Map<string, Kept>());
  const key = `${gameId} ${what}`;
  const stamp = await changesStamp(gameId);
  const known = kept.get(key);
  kept.delete(key);
  const value = known?.stamp === stamp ? (known.value as Promise<T>) : work();
  kept.set(key, { stamp, value });
  value.catch(() => kept.delete(key));
  for (const old of [...kept.keys()].slice(0, -MOST_KEPT)) kept.delete(old);
  return value;
}
