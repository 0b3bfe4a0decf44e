/** What a game update changed inside an archive: its entries before and after, by path and checksum. */
import { QueryTypes } from 'sequelize';
import { database, GameModel, ScanModel, type ArchiveModel } from '../../database';
import type { ArchiveNews } from '../../shapes';

/** Keeps the entries of an archive that has changed, until the new ones can be read. */
export async function keepEntriesBefore(archiveId: number): Promise<void> {
  await database().transaction(async (transaction) => {
    const options = { replacements: { archiveId }, transaction };
    const [rows] = (await database().query(
      'select exists (select 1 from entries where archive_id = :archiveId) as has',
      options,
    )) as [{ has: boolean }[], unknown];
    // Changed twice while it was locked: the last ones that could be read are what is compared with.
    if (rows[0]?.has !== true) return;
    await database().query('delete from entries_before where archive_id = :archiveId', options);
    await database().query(
      `insert into entries_before (archive_id, path, size, stored, tag)
       select archive_id, path, size, stored, tag from entries where archive_id = :archiveId and not deleted`,
      options,
    );
  });
}

const COMPARED = `
  from (select * from entries_before where archive_id = :archiveId) b
  full join (select * from entries where archive_id = :archiveId and not deleted) e on e.path = b.path
  where b.path is null or e.path is null or e.size <> b.size or e.tag <> b.tag or (e.tag = '' and e.stored <> b.stored)`;
const WHAT = `case when b.path is null then 'added' when e.path is null then 'gone' else 'changed' end`;
const SAMPLES = 200;

/** Compares with what was kept; earlier news stay while there are no new ones. */
export async function newsOf(row: ArchiveModel): Promise<ArchiveNews | null> {
  const archiveId = row.id;
  const kept = await select<{ has: boolean }>(
    'select exists (select 1 from entries_before where archive_id = :archiveId) as has',
    archiveId,
  );
  if (kept[0]?.has !== true) return row.news ?? null;
  const counts = await select<{ what: 'added' | 'changed' | 'gone'; count: number }>(
    `select ${WHAT} as what, count(*)::int as count ${COMPARED} group by 1`,
    archiveId,
  );
  const samples = await select<{ path: string; what: 'added' | 'changed' | 'gone' }>(
    `select coalesce(e.path, b.path) as path, ${WHAT} as what ${COMPARED} order by 1 limit ${SAMPLES}`,
    archiveId,
  );
  await select('delete from entries_before where archive_id = :archiveId', archiveId);
  const of = (what: string) => counts.find((one) => one.what === what)?.count ?? 0;
  return { since: await buildBefore(row), added: of('added'), changed: of('changed'), gone: of('gone'), samples };
}

/** The build of the game that the entries before were of. */
async function buildBefore(row: ArchiveModel): Promise<string | null> {
  const game = await GameModel.findByPk(row.gameId);
  const scans = await ScanModel.findAll({ where: { gameId: row.gameId }, order: [['id', 'DESC']], limit: 20 });
  return scans.find((scan) => scan.build !== null && scan.build !== game?.build)?.build ?? null;
}

function select<T extends object>(sql: string, archiveId: number): Promise<T[]> {
  return database().query<T>(sql, { replacements: { archiveId }, type: QueryTypes.SELECT });
}
