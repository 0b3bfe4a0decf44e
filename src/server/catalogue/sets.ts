/** Sets of paths that a search asks for and that the database keeps: what was changed, what is labelled. */
import { QueryTypes } from 'sequelize';
import { parseSearch, setName, type CatalogueQuery, type PathSet } from '../../core/catalogue';
import { database } from '../database';
import type { EntryPlace } from '../shapes';

/** SQL for the paths of a set; `:like` is what was typed, as a pattern. */
const SETS: Readonly<Record<PathSet, string>> = {
  changed: 'select path from changes where game_id = :gameId and not undone and path ilike :like',
  label: 'select path from labels where game_id = :gameId and text ilike :like',
  uses: `select distinct from_path as path from links where game_id = :gameId and to_path collate "default" ilike :like`,
  'used-by': `select distinct to_path as path from links where game_id = :gameId and from_path collate "default" ilike :like`,
};

/**
 * A query with the paths of the sets it asks for.
 *
 * @throws FaultError `invalid-request` for a search that means nothing
 */
export async function catalogueQuery(gameId: number, place: EntryPlace): Promise<CatalogueQuery> {
  const sets: Record<string, string[]> = {};
  for (const term of parseSearch(place.search)) {
    if (term.is !== 'set') continue;
    const like = `%${term.text.replace(/[\\%_]/g, '\\$&')}%`;
    const rows = await database().query<{ path: string }>(SETS[term.set], {
      replacements: { gameId, like },
      type: QueryTypes.SELECT,
    });
    sets[setName(term.set, term.text)] = rows.map(({ path }) => path);
  }
  return { ...place, sets };
}
