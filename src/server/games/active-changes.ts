/** The changes that go into a game. */
import { QueryTypes } from 'sequelize';
import { ChangeModel, database } from '../database';

/** By path. Of several for one path a person's own holds, then that of the mod that comes last. */
export function activeChanges(gameId: number): Promise<ChangeModel[]> {
  return database().query(
    `select distinct on (c.path) c.* from changes c left join mods m on m.id = c.mod_id
     where c.game_id = :gameId and not c.undone
     order by c.path, (c.mod_id is null) desc, m.position desc, c.id desc`,
    { replacements: { gameId }, type: QueryTypes.SELECT, model: ChangeModel, mapToModel: true },
  );
}
