import { QueryTypes } from 'sequelize';
import type { z } from 'zod';
import { database } from '../database';
import type { EntryRow, TrayAnswer, trayEdit } from '../shapes';

/** What is in the tray, with entries that have gone left out of the rows. */
export async function listTray(gameId: number): Promise<TrayAnswer> {
  const rows = await trayEntries(gameId);
  return { total: rows.length, bytes: rows.reduce((sum, row) => sum + row.size, 0), rows };
}

export function trayEntries(gameId: number): Promise<EntryRow[]> {
  return database().query<EntryRow>(
    `select e.archive_id as archive, e.n, e.path, e.name, e.kind, e.size::float8 as size, 'wins' as role,
            exists (select 1 from changes c where c.game_id = e.game_id and c.path = e.path and not c.undone) as changed
     from tray_items t join entries e on e.game_id = t.game_id and e.path = t.path and e.wins
     where t.game_id = :gameId order by e.archive_id, e.at`,
    { replacements: { gameId }, type: QueryTypes.SELECT },
  );
}

export async function editTray(gameId: number, edit: z.output<typeof trayEdit>): Promise<TrayAnswer> {
  await database().transaction(async (transaction) => {
    const run = (sql: string, replacements: Record<string, unknown>) =>
      database().query(sql, { replacements: { gameId, ...replacements }, transaction });
    if (edit.clear) await run('delete from tray_items where game_id = :gameId', {});
    if (edit.remove.length > 0)
      await run('delete from tray_items where game_id = :gameId and path in (:paths)', { paths: edit.remove });
    if (edit.add.length > 0) {
      await run(
        'insert into tray_items (game_id, path) select :gameId, e.path from entries e where e.game_id = :gameId and e.wins and e.path in (:paths) on conflict do nothing',
        { paths: edit.add },
      );
    }
    if (edit.addFolder !== undefined) {
      const below = `${edit.addFolder.replace(/[\\%_]/g, '\\$&')}/%`;
      await run(
        `insert into tray_items (game_id, path) select :gameId, e.path from entries e
         where e.game_id = :gameId and e.wins and (:folder = '' or e.path like :below) on conflict do nothing`,
        { folder: edit.addFolder, below },
      );
    }
  });
  return listTray(gameId);
}
