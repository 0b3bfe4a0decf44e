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

export interface ListedChanges {
  /** How many there are, without what goes with another. */
  readonly count: number;
  readonly first: readonly ToldChange[];
}

/** What a page lists of the changes of builds, by the ids of the builds. */
export async function listedChanges(builds: readonly number[]): Promise<ReadonlyMap<number, ListedChanges>> {
  const rows = await database().query<ToldChange & { buildId: number; count: number }>(
    `select "buildId", count, path, action, mod from (
       select build_id as "buildId", path, coalesce(action, 'replace') as action, mod,
         cast(count(*) over (partition by build_id) as integer) as count,
         row_number() over (partition by build_id order by position) as n
       from build_changes where build_id = any($1::integer[]) and not beside
     ) listed where n <= $2 order by "buildId", n`,
    { bind: [[...builds], MOST_LISTED], type: QueryTypes.SELECT },
  );
  const listed = new Map<number, { count: number; first: ToldChange[] }>();
  for (const { buildId, count, path, action, mod } of rows) {
    const one = listed.get(buildId) ?? { count, first: [] };
    one.first.push({ path, action, mod });
    listed.set(buildId, one);
  }
  return listed;
}
