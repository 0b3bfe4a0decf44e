import { QueryTypes } from 'sequelize';
import type { z } from 'zod';
import { database } from '../database';
import { askCatalogue, catalogueQuery } from '../catalogue';
import { endingsOf, partsOfPictures } from '../recipes';
import type { EntryRow, ListPart, TrayAnswer, TrayListed, trayEdit } from '../shapes';

/** What is in the tray, with entries that have gone left out of the rows. */
export async function listTray(gameId: number): Promise<TrayAnswer> {
  const [sums] = await database().query<{ total: number; bytes: number }>(
    `select count(*)::int as total, coalesce(sum(e.size), 0)::float8 as bytes
     from tray_items t join entries e on e.game_id = t.game_id and e.path = t.path and e.wins where t.game_id = :gameId`,
    { replacements: { gameId }, type: QueryTypes.SELECT },
  );
  const rows = await trayEntries(gameId, MOST_LISTED);
  const parts = await partsOfPictures(
    gameId,
    rows.filter(({ kind }) => kind === 'picture').map(({ path }) => path),
  );
  const clips = await endingsOf(gameId, 'clip');
  const paths = rows.map(({ path }) => path);
  return {
    ...sums!,
    rows,
    parts: paths.filter((path) => parts.has(path)),
    clips: paths.filter((path) => clips.has(path.slice(path.lastIndexOf('.') + 1).toLowerCase())),
  };
}

/** Rows of the tray that are sent to the page. */
const MOST_LISTED = 2_000;

function trayEntries(gameId: number, most: number): Promise<EntryRow[]> {
  return database().query<EntryRow>(
    `select e.archive_id as archive, e.n, e.path, e.name, e.kind, e.size::float8 as size, 'wins' as role,
            exists (select 1 from changes c where c.game_id = e.game_id and c.path = e.path and not c.undone) as changed,
            (select l.text from labels l where l.game_id = e.game_id and l.path = e.path) as label
     from tray_items t join entries e on e.game_id = t.game_id and e.path = t.path and e.wins
     where t.game_id = :gameId order by e.archive_id, e.at limit :most`,
    { replacements: { gameId, most }, type: QueryTypes.SELECT },
  );
}

/** The paths in the tray, one a line. */
export async function trayList(gameId: number): Promise<string> {
  const rows = await database().query<{ path: string }>(
    'select path from tray_items where game_id = :gameId order by path',
    { replacements: { gameId }, type: QueryTypes.SELECT },
  );
  return rows.map(({ path }) => `${path}\n`).join('');
}

/** Puts the entries of a list into the tray; empty lines and those that begin with `#` are skipped. */
export async function addTrayList(gameId: number, text: string): Promise<TrayListed> {
  const lines = text.replace(/^\ufeff/, '').split(/\r?\n/);
  const paths = [...new Set(lines.map((line) => line.trim()).filter((line) => line !== '' && !line.startsWith('#')))];
  const known = new Set<string>();
  for (let from = 0; from < paths.length; from += PATHS_A_STATEMENT) {
    const rows = await addPaths(gameId, paths.slice(from, from + PATHS_A_STATEMENT));
    for (const path of rows) known.add(path);
  }
  const unknown = paths.filter((path) => !known.has(path));
  return { added: known.size, unknown: unknown.length, first: unknown.slice(0, 5) };
}

const PATHS_A_STATEMENT = 20_000;

/** @returns those of the paths that an entry wins under */
async function addPaths(gameId: number, paths: readonly string[]): Promise<string[]> {
  const found = `select path from entries where game_id = $1 and wins and path = any ($2::text[])`;
  const bind = [gameId, paths];
  await database().query(
    `insert into tray_items (game_id, path) select $1, path from (${found}) f on conflict do nothing`,
    { bind },
  );
  const rows = await database().query<{ path: string }>(found, { bind, type: QueryTypes.SELECT });
  return rows.map(({ path }) => path);
}

async function addListPart(gameId: number, { place, ranges }: ListPart): Promise<void> {
  const query = await catalogueQuery(gameId, place);
  const paths = await askCatalogue(gameId, 'paths', { query, ranges: ranges ?? [[0, Number.MAX_SAFE_INTEGER]] });
  for (let from = 0; from < paths.length; from += PATHS_A_STATEMENT)
    await addPaths(gameId, paths.slice(from, from + PATHS_A_STATEMENT));
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
  if (edit.addList !== undefined) await addListPart(gameId, edit.addList);
  return listTray(gameId);
}
