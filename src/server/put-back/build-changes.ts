/** The changes a build was made of, as rows: there may be hundreds of thousands. */
import { QueryTypes, type Transaction } from 'sequelize';
import { BuildChangeModel, database } from '../database';
import type { BuiltChange, ToldChange } from '../shapes';

/** Changes of a build that a page lists. */
const MOST_LISTED = 30;

/** Writes the changes of a new build, in their order. */
export async function keepBuildChanges(
  buildId: number,
  changes: readonly BuiltChange[],
  transaction: Transaction,
): Promise<void> {
  await database().query(
    `insert into build_changes
       select $1, c.position - 1, r.path, r.blob, r.size, r."fileName", r.kind, r.action, r."into", r.loop, r.base, r.mod,
         coalesce(r.beside, false)
       from jsonb_array_elements($2::jsonb) with ordinality as c (change, position),
         jsonb_to_record(c.change) as r (path text, blob text, size bigint, "fileName" text, kind text, action text,
           "into" text, loop jsonb, base text, mod text, beside boolean)`,
    { bind: [buildId, JSON.stringify(changes)], transaction },
  );
}

/** All changes of a build, in their order. */
export async function buildChanges(buildId: number): Promise<BuiltChange[]> {
  const rows = await BuildChangeModel.findAll({ where: { buildId }, order: [['position', 'ASC']], raw: true });
  return rows.map(({ path, blob, size, fileName, kind, action, intoArchive, loop, base, mod, beside }) => ({
    ...{ path, blob },
    ...(size === null ? {} : { size: Number(size) }),
    ...(fileName === null ? {} : { fileName }),
    ...(kind === null ? {} : { kind }),
    ...(action === null ? {} : { action }),
    ...(intoArchive === null ? {} : { into: intoArchive }),
    ...(loop === null ? {} : { loop }),
    ...(base === null ? {} : { base }),
    ...(mod === null ? {} : { mod }),
    ...(beside ? { beside } : {}),
  }));
}

/** The first changes of builds, as a page lists them, by the ids of the builds. */
export async function firstChanges(builds: readonly number[]): Promise<ReadonlyMap<number, readonly ToldChange[]>> {
  const rows = await database().query<ToldChange & { buildId: number }>(
    `select b.id as "buildId", c.path, coalesce(c.action, 'replace') as action, c.mod
     from unnest($1::integer[]) as b (id), lateral (
       select path, action, mod, position from build_changes
       where build_id = b.id and not beside order by position limit $2) c
     order by b.id, c.position`,
    { bind: [[...builds], MOST_LISTED], type: QueryTypes.SELECT },
  );
  const first = new Map<number, ToldChange[]>();
  for (const { buildId, ...change } of rows) first.set(buildId, [...(first.get(buildId) ?? []), change]);
  return first;
}
