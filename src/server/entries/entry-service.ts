import { QueryTypes } from 'sequelize';
import { FaultError, isFaultError, sayFault } from '../../core/faults';
import { explainEntry, locksOf } from '../../core/recipe';
import { ArchiveModel, database } from '../database';
import { mayLose, methodWords, requireArchive, withArchive } from '../games';
import { askCatalogue, catalogueQuery } from '../catalogue';
import type { EntryDetails, EntryPage, EntryPlace, EntryQuery, EntryRow, FolderRow, ListPart } from '../shapes';
import { entrySubject, formOf, type FormRead, type Subject } from '../forms';

const ROLE = `case when e.deleted then 'removes' when e.wins then 'wins' else 'covered' end`;

/** Entries of a game by search, folder and archive; one page, with the counts of all that fit. */
export async function listEntries(gameId: number, { offset, limit, ...place }: EntryQuery): Promise<EntryPage> {
  const query = await catalogueQuery(gameId, place);
  const page = await askCatalogue(gameId, 'page', { query, offset, limit });
  const paths = page.rows.map(({ path }) => path);
  const marks = await marksOf(gameId, paths);
  return {
    ...page,
    rows: page.rows.map((row) => ({
      ...row,
      changed: marks.changed.has(row.path),
      label: marks.labels.get(row.path) ?? null,
    })),
  };
}

/** What people did to some paths. */
async function marksOf(
  gameId: number,
  paths: readonly string[],
): Promise<{ changed: ReadonlySet<string>; labels: ReadonlyMap<string, string> }> {
  if (paths.length === 0) return { changed: new Set(), labels: new Map() };
  // Two hundred texts as one value: as many in the statement itself would have to be written and read each time.
  const bind = [gameId, [...paths]];
  const [changed, labels] = await Promise.all([
    database().query<{ path: string }>(
      'select path from changes where game_id = $1 and not undone and path = any($2::text[])',
      { bind, type: QueryTypes.SELECT },
    ),
    database().query<{ path: string; text: string }>(
      'select path, text from labels where game_id = $1 and path = any($2::text[])',
      { bind, type: QueryTypes.SELECT },
    ),
  ]);
  return {
    changed: new Set(changed.map(({ path }) => path)),
    labels: new Map(labels.map(({ path, text }) => [path, text])),
  };
}

/** Where an entry is in a list; -1 when it is not in it. */
export async function placeInList(
  gameId: number,
  place: EntryPlace,
  archive: number,
  n: number,
): Promise<{ place: number }> {
  const query = await catalogueQuery(gameId, place);
  return { place: await askCatalogue(gameId, 'place', { query, archive, n }) };
}

/** The paths of a list, or of parts of it. */
export async function listPaths(gameId: number, { place, ranges }: ListPart): Promise<{ paths: string[] }> {
  const query = await catalogueQuery(gameId, place);
  return {
    paths: await askCatalogue(gameId, 'paths', { query, ranges: ranges ?? [[0, MOST_COPIED]] }),
  };
}

/** Other games that are named as having an entry too. */
const MOST_ELSEWHERE = 5;

/** Paths that are copied at once. */
const MOST_COPIED = 100_000;

/** The folders right under a folder, each with the number of entries below it; of one archive alone, when it is named. */
export async function listFolders(gameId: number, parent: string, archive?: number): Promise<FolderRow[]> {
  return askCatalogue(gameId, 'folders', { parent, archive });
}

function select<T extends object>(sql: string, replacements: Record<string, unknown>): Promise<T[]> {
  return database().query<T>(sql, { replacements, type: QueryTypes.SELECT });
}

export const entryDetails = async (gameId: number, archiveId: number, n: number): Promise<EntryDetails> =>
  (await readDetails(gameId, archiveId, n)).details;

/** The same, with what it was read from and what else reading it gave. */
export async function readDetails(
  gameId: number,
  archiveId: number,
  n: number,
): Promise<{ details: EntryDetails; subject: Subject; read: FormRead }> {
  const [row] = await select<
    EntryRow & { stored: number; at: number; method: string; volume: number; inTray: boolean }
  >(
    `select e.archive_id as archive, e.n, e.path, e.name, e.kind, e.size::float8 as size, ${ROLE} as role, e.stored::float8 as stored, e.at::float8 as at, e.method, e.volume,
            exists (select 1 from changes c where c.game_id = e.game_id and c.path = e.path and not c.undone) as changed,
            (select l.text from labels l where l.game_id = e.game_id and l.path = e.path) as label,
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
  const others = await select<{ archive: number; n: number; path: string; position: number; deleted: boolean }>(
    `select e.archive_id as archive, e.n, a.path, a.position, e.deleted from entries e join archives a on a.id = e.archive_id
     where e.game_id = :gameId and e.path = :path and e.archive_id <> :archiveId order by a.position`,
    { gameId, path: row.path, archiveId },
  );
  const elsewhere = await select<{ game: number; name: string; archive: number; n: number }>(
    `select g.id as game, concat_ws(' ', g.name, g.build) as name, e.archive_id as archive, e.n
     from games g join entries e on e.game_id = g.id and e.path = :path and e.wins and not e.deleted
     where g.id <> :gameId and g.forgotten_at is null order by g.id limit :shown`,
    { gameId, path: row.path, shown: MOST_ELSEWHERE },
  );
  return withArchive(archiveId, async (archive) => {
    const gone = row.role === 'removes';
    // A name alone said nothing when it was listed; its first bytes do.
    const subject = await entrySubject(archiveId, n, row.kind === 'bytes' ? {} : { kind: row.kind });
    const read = gone ? NOTHING_READ : await readSubject(subject);
    const details: EntryDetails = {
      ...row,
      kind: subject.kind,
      removable: mayLose(archive.recipe),
      archivePath: archiveRow.path,
      file: archive.volumes[row.volume]?.name ?? archiveRow.path,
      method: methodWords(archive.recipe, archive.entries.method(n)),
      linkTo: archive.entries.link(n) ?? null,
      locked: gone ? { index: false, entry: false } : await locksOf(archive, n),
      mime: subject.mime,
      covers: others
        .filter((one) => one.position < archiveRow.position && !one.deleted)
        .map(({ archive: of, n: number, path }) => ({ archive: of, n: number, path })),
      coveredBy: others.findLast((one) => one.position > archiveRow.position)?.path ?? null,
      elsewhere,
      fields: (await explainEntry(archive, n)).map(({ field, value, at, length, unlocked, formula }) => ({
        field,
        value,
        at,
        length,
        unlocked,
        formula: formula ?? null,
      })),
      facts: read.facts,
      trouble: read.trouble ?? null,
      expects: read.expects,
    };
    return { details, subject, read };
  });
}

const NOTHING_READ: FormRead = { facts: null, expects: [] };

/** What cannot be read says why, and is still an entry like any other. */
async function readSubject(subject: Subject): Promise<FormRead> {
  const form = formOf(subject);
  if (form === undefined)
    return { ...NOTHING_READ, expects: ['Bytes of any kind: nothing is known about what it holds.'] };
  try {
    return await form.read(subject);
  } catch (error) {
    if (!isFaultError(error)) throw error;
    return { ...NOTHING_READ, trouble: sayFault(error.fault) };
  }
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
