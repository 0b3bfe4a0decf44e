/** Which files of an import are to come: one that was cut off while they were sent can be finished, or given up. */
import { QueryTypes } from 'sequelize';
import { database, DropModel } from '../database';
import { requireGame } from '../games';
import type { ImportFile, UnfinishedImport } from '../shapes';

/** Files of one import that are named as missing. */
const MOST_NAMED = 1_000;

/** Notes what is going to be sent. */
export async function expectFiles(dropId: number, files: readonly ImportFile[]): Promise<void> {
  await database().query(
    `insert into import_files (drop_id, position, name, size, path)
     select $1, position - 1, name, size, path
     from unnest($2::text[], $3::bigint[], $4::text[]) with ordinality as f (name, size, path, position)`,
    {
      bind: [
        dropId,
        files.map(({ name }) => name),
        files.map(({ size }) => size),
        files.map(({ path }) => path ?? null),
      ],
    },
  );
}

/** Notes that one of them has come. Of files that are called the same, one is ticked off. */
export async function noteReceived(dropId: number, { name, size }: ImportFile): Promise<void> {
  await database().query(
    `update import_files set received = true where drop_id = $1 and position = (
       select position from import_files where drop_id = $1 and name = $2 and not received
       order by size = $3 desc, position limit 1)`,
    { bind: [dropId, name, size] },
  );
  await DropModel.update({ touchedAt: new Date() }, { where: { id: dropId } });
}

/** Imports of which not every file has come, and that were not handed to the worker; the oldest first. */
export async function unfinishedImports(gameId: number): Promise<UnfinishedImport[]> {
  await requireGame(gameId);
  const rows = await database().query<
    Omit<UnfinishedImport, 'missing'> & { missing: UnfinishedImport['missing'] | null }
  >(
    `select d.id, d.created_at as "createdAt", count(f.*)::int as total,
       (count(f.*) filter (where f.received))::int as received,
       (extract(epoch from now() - d.touched_at) * 1000)::int as "quietFor",
       (select json_agg(m) from (
          select name, size::float8 as size, path from import_files
          where drop_id = d.id and not received order by position limit ${MOST_NAMED}) m) as missing
     from drops d join import_files f on f.drop_id = d.id
     where d.game_id = $1 and d.started_at is null group by d.id order by d.id`,
    { bind: [gameId], type: QueryTypes.SELECT },
  );
  return rows.map((row) => ({ ...row, missing: row.missing ?? [] }));
}

/** The files are handed to the worker, or given up: nothing more is to come. */
export async function endImport(dropId: number): Promise<void> {
  await database().transaction(async (transaction) => {
    await DropModel.update({ startedAt: new Date() }, { where: { id: dropId, startedAt: null }, transaction });
    await database().query('delete from import_files where drop_id = $1', { bind: [dropId], transaction });
  });
}
