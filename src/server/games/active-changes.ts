/** The changes that go into a game. */
import { QueryTypes } from 'sequelize';
import { database } from '../database';
import type { ChangeAction } from '../shapes';

/** What a change says that goes into no archive, for it is a file of its own in the game's folder. */
export const BESIDE_THE_GAME = '';

interface ActiveChange {
  readonly path: string;
  readonly blob: string;
  readonly size: number;
  readonly fileName: string;
  readonly kind: string;
  readonly action: ChangeAction;
  readonly intoArchive: string | null;
  readonly loop: readonly [number, number] | null;
  readonly base: string | null;
  readonly modId: number | null;
  readonly withId: number | null;
  readonly createdAt: Date;
}

/**
 * By path. Of several for one path a person's own holds, then that of the mod that comes last.
 *
 * @param newFiles only files that are to be new in the game's folder
 */
export function activeChanges(gameId: number, { newFiles = false } = {}): Promise<ActiveChange[]> {
  // Plain rows: there may be a hundred thousand, and each model costs more than all that is asked of it.
  return database().query<ActiveChange>(
    `select distinct on (c.path) c.path, c.blob, c.size::float8 as size, c.file_name as "fileName", c.kind, c.action,
            c.into_archive as "intoArchive", c.loop, c.base, c.mod_id as "modId", c.with_id as "withId",
            c.created_at as "createdAt"
     from changes c left join mods m on m.id = c.mod_id
     where c.game_id = :gameId and not c.undone and (not :newFiles or (c.action = 'add' and c.into_archive = :beside))
     order by c.path, (c.mod_id is null) desc, m.position desc, c.id desc`,
    { replacements: { gameId, newFiles, beside: BESIDE_THE_GAME }, type: QueryTypes.SELECT },
  );
}

/** What of a change says whether a build has it. */
export interface ChangeMark {
  readonly path: string;
  readonly blob: string;
  readonly action: string;
  readonly loop: readonly number[] | null;
  readonly withId: number | null;
}

/** The same as marks: a table of texts has a hundred thousand. */
export function activeMarks(gameId: number): Promise<ChangeMark[]> {
  return database().query<ChangeMark>(
    `select distinct on (c.path) c.path, c.blob, c.action, c.loop, c.with_id as "withId"
     from changes c left join mods m on m.id = c.mod_id where c.game_id = :gameId and not c.undone
     order by c.path, (c.mod_id is null) desc, m.position desc, c.id desc`,
    { replacements: { gameId }, type: QueryTypes.SELECT },
  );
}
