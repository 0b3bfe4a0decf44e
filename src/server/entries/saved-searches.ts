import { QueryTypes } from 'sequelize';
import type { z } from 'zod';
import { FaultError } from '../../core/faults';
import { database } from '../database';
import type { SavedSearch, searchEdit } from '../shapes';

export function listSearches(gameId: number): Promise<SavedSearch[]> {
  return database().query<SavedSearch>('select id, name, place from searches where game_id = :gameId order by name', {
    replacements: { gameId },
    type: QueryTypes.SELECT,
  });
}

/** Keeps a search under a name; another of that name makes way. */
export async function saveSearch(gameId: number, { name, place }: z.output<typeof searchEdit>): Promise<SavedSearch[]> {
  await database().query(
    `insert into searches (game_id, name, place) values (:gameId, :name, :place)
     on conflict (game_id, name) do update set place = excluded.place`,
    { replacements: { gameId, name, place } },
  );
  return listSearches(gameId);
}

/** @throws FaultError `not-found` when it is gone already */
export async function removeSearch(gameId: number, id: number): Promise<SavedSearch[]> {
  const rows = await database().query<{ id: number }>(
    'delete from searches where game_id = :gameId and id = :id returning id',
    { replacements: { gameId, id }, type: QueryTypes.SELECT },
  );
  if (rows.length === 0) throw new FaultError({ code: 'not-found', what: 'the saved search is gone already' });
  return listSearches(gameId);
}
