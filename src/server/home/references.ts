/** Which blobs are still referred to, and by what: every SHA-256 that a row of the database names keeps its blob. */
import { QueryTypes } from 'sequelize';
import { database } from '../database';

/**
 * Tables whose rows name blobs, in columns or anywhere inside JSON. A hash that happens to be in a row without being a
 * blob keeps nothing that is there, so that too much is named rather than too little.
 */
const TABLES = ['games', 'changes', 'mods', 'incoming_files', 'builds', 'installs', 'routines', 'runs'];

/** Runs that ended well and only tell again what their build holds keep nothing. */
const LASTING = `where not (t.state = 'done' and t.kind in ('build', 'renew', 'routine', 'estimate', 'put-in', 'take-back'))`;

/** The builds and other rows that name a blob, by its SHA-256. */
export interface References {
  readonly builds: ReadonlySet<number>;
  readonly others: boolean;
}

export async function references(): Promise<Map<string, References>> {
  const named = TABLES.map(
    (table) => `select '${table}' as owner, id, m[1] as sha256
      from ${table} t, regexp_matches(t::text, '\\y[0-9a-f]{64}\\y', 'g') m ${table === 'runs' ? LASTING : ''}`,
  )
    .concat(
      ['blob', 'base'].map(
        (column) =>
          `select 'builds' as owner, build_id as id, ${column} as sha256 from build_changes where ${column} <> ''`,
      ),
    )
    .join(' union all ');
  const rows = await database().query<{ owner: string; id: number; sha256: string }>(
    `select distinct owner, case when owner = 'builds' then id else 0 end as id, sha256 from (${named}) as named`,
    { type: QueryTypes.SELECT },
  );
  const found = new Map<string, { builds: Set<number>; others: boolean }>();
  for (const { owner, id, sha256 } of rows) {
    const known = found.get(sha256) ?? { builds: new Set<number>(), others: false };
    if (owner === 'builds') known.builds.add(id);
    else known.others = true;
    found.set(sha256, known);
  }
  return found;
}
