import { QueryTypes } from 'sequelize';
import { FaultError } from '../../core/faults';
import { mimeOf } from '../../core/game';
import { explainEntry } from '../../core/recipe';
import { ArchiveModel, database } from '../database';
import { requireArchive, withArchive } from '../games';
import type { EntryDetails, EntryPage, EntryQuery, EntryRow, FolderRow, KindName } from '../shapes';
import { entryHead, expectationOf, pictureFacts } from './entry-content';
import { searchCondition } from './search';

const ROLE = `case when e.deleted then 'removes' when e.wins then 'wins' else 'covered' end`;
const SORTS = { path: 'e.path', size: 'e.size', kind: 'e.kind' } as const;

/** Entries of a game that win, by search, folder and archive; one page, with the counts of all that fit. */
export async function listEntries(gameId: number, query: EntryQuery): Promise<EntryPage> {
  const search = searchCondition(query.search);
  const conditions = [
    'e.game_id = :gameId',
    // One archive alone shows what it has, whoever wins.
    query.archive === undefined ? 'e.wins' : 'e.archive_id = :archive',
    `(${search.sql})`,
  ];
  if (query.folder !== undefined && query.folder !== '') conditions.push('e.path like :below');
  const replacements = {
    ...search.values,
    gameId,
    archive: query.archive ?? 0,
    below: `${(query.folder ?? '').replace(/[\\%_]/g, '\\$&')}/%`,
    limit: query.limit,
    offset: query.offset,
  };
  const where = `from entries e join archives a on a.id = e.archive_id where ${conditions.join(' and ')}`;
  const direction = query.order === 'up' ? 'asc' : 'desc';
  const [kinds, rows] = await Promise.all([
    select<{ kind: KindName; count: number; bytes: number }>(
      `select e.kind, count(*)::int as count, coalesce(sum(e.size), 0)::float8 as bytes ${where} group by e.kind`,
      replacements,
    ),
    select<EntryRow>(
      `select e.archive_id as archive, e.n, e.path, e.name, e.kind, e.size::float8 as size, ${ROLE} as role,
              exists (select 1 from changes c where c.game_id = e.game_id and c.path = e.path and not c.undone) as changed
       ${where} order by ${SORTS[query.sort]} ${direction}, e.path, e.archive_id limit :limit offset :offset`,
      replacements,
    ),
  ]);
  return {
    total: kinds.reduce((sum, kind) => sum + kind.count, 0),
    bytes: kinds.reduce((sum, kind) => sum + kind.bytes, 0),
    kinds: Object.fromEntries(kinds.map((kind) => [kind.kind, kind.count])),
    rows,
  };
}

/** The folders right under a folder, each with the number of entries below it; of one archive alone, when it is named. */
export async function listFolders(gameId: number, parent: string, archive?: number): Promise<FolderRow[]> {
  const depth = parent === '' ? 1 : parent.split('/').length + 1;
  const rows = await select<{ name: string; count: number; folders: number }>(
    `select split_part(folder, '/', :depth) as name, count(*)::int as count,
            count(distinct nullif(split_part(folder, '/', :depth + 1), ''))::int as folders
     from entries where game_id = :gameId and ${archive === undefined ? 'wins' : 'archive_id = :archive'} and (:parent = '' or path like :below)
     group by 1 having split_part(folder, '/', :depth) <> '' order by 1`,
    { gameId, depth, parent, archive: archive ?? 0, below: `${parent.replace(/[\\%_]/g, '\\$&')}/%` },
  );
  return rows.map((row) => ({ ...row, path: parent === '' ? row.name : `${parent}/${row.name}` }));
}

function select<T extends object>(sql: string, replacements: Record<string, unknown>): Promise<T[]> {
  return database().query<T>(sql, { replacements, type: QueryTypes.SELECT });
}

export async function entryDetails(gameId: number, archiveId: number, n: number): Promise<EntryDetails> {
  const [row] = await select<
    EntryRow & { stored: number; at: number; method: string; volume: number; inTray: boolean }
  >(
    `select e.archive_id as archive, e.n, e.path, e.name, e.kind, e.size::float8 as size, ${ROLE} as role, e.stored::float8 as stored, e.at::float8 as at, e.method, e.volume,
            exists (select 1 from changes c where c.game_id = e.game_id and c.path = e.path and not c.undone) as changed,
            exists (select 1 from tray_items t where t.game_id = e.game_id and t.path = e.path) as "inTray"
     from entries e where e.game_id = :gameId and e.archive_id = :archiveId and e.n = :n`,
    { gameId, archiveId, n },
  );
  if (row === undefined)
    throw new FaultError({
      code: 'no-such-entry',
      what: 'there is no such entry any more',
      hint: 'The archive may have changed: scan again.',
    });
  const archiveRow = (await ArchiveModel.findByPk(archiveId))!;
  const others = await select<{ path: string; position: number; deleted: boolean }>(
    `select a.path, a.position, e.deleted from entries e join archives a on a.id = e.archive_id
     where e.game_id = :gameId and e.path = :path and e.archive_id <> :archiveId order by a.position`,
    { gameId, path: row.path, archiveId },
  );
  return withArchive(archiveId, async (archive) => {
    const gone = row.role === 'removes';
    const head = gone ? new Uint8Array(0) : await entryHead(archive, n);
    const picture = row.kind === 'picture' && !gone ? await pictureFacts(archive, n) : null;
    const steps = archive.recipe.entries.stepsOf(archive.entries.method(n));
    return {
      ...row,
      archivePath: archiveRow.path,
      file: archive.volumes[row.volume]?.name ?? archiveRow.path,
      method:
        steps === undefined
          ? `unknown (${row.method})`
          : steps.length === 0
            ? 'stored as it is'
            : steps.map((step) => step.codec.name).join(', '),
      locked: archive.recipe.needs.size > 0,
      mime: mimeOf(row.path, head),
      covers: others.filter((one) => one.position < archiveRow.position && !one.deleted).map((one) => one.path),
      coveredBy: others.findLast((one) => one.position > archiveRow.position)?.path ?? null,
      fields: (await explainEntry(archive, n)).map(({ field, value, at, length, unlocked, formula }) => ({
        field,
        value,
        at,
        length,
        unlocked,
        formula: formula ?? null,
      })),
      picture,
      expects: gone ? [] : await expectationOf(archive, n, row.path, picture),
    };
  });
}

/** The entry whose stored bytes hold an offset of the strip, which draws all files of an archive; null where there is none. */
export async function entryAt(
  gameId: number,
  archive: number,
  offset: number,
): Promise<{ archive: number; n: number } | null> {
  const { volume, at } = await volumeAt(gameId, archive, offset);
  const [row] = await select<{ archive: number; n: number; end: number }>(
    `select archive_id as archive, n, (at + stored)::float8 as end from entries
     where game_id = :gameId and archive_id = :archive and volume = :volume and at <= :at and stored > 0 order by at desc limit 1`,
    { gameId, archive, volume, at },
  );
  return row === undefined || row.end <= at ? null : { archive: row.archive, n: row.n };
}

async function volumeAt(gameId: number, archive: number, offset: number): Promise<{ volume: number; at: number }> {
  const { volumes } = await requireArchive(gameId, archive);
  let start = 0;
  for (const [volume, { size }] of volumes.entries()) {
    if (offset < start + size) return { volume, at: offset - start };
    start += size;
  }
  return { volume: 0, at: offset };
}
