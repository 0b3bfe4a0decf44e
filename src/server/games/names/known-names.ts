import { QueryTypes } from 'sequelize';
import { database } from '../../database';

/** All names of a game that fit a hash somewhere in it, those that were found first before the others. */
export async function knownNames(gameId: number): Promise<string[]> {
  const rows = await database().query<{ path: string }>(
    'select path from names where game_id = :gameId order by list_id',
    { replacements: { gameId }, type: QueryTypes.SELECT },
  );
  return rows.map(({ path }) => path);
}
