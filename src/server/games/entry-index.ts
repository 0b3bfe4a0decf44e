/** Entries in the database: written with COPY, made again from the archive whenever it changed. */
import { posix } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Client } from 'pg';
import { from as copyFrom } from 'pg-copy-streams';
import { QueryTypes } from 'sequelize';
import { throwIfStopped, type Fault } from '../../core/faults';
import { FOUND_RECIPE, LOOSE_RECIPE } from '../../core/carve';
import { guessFromHead, looseKind, type Kind } from '../../core/game';
import { uniquePaths, type Archive, type Recipe } from '../../core/recipe';
import { kindByRecipe, kindsByEnding, knownRecipes } from '../recipes';
import { oncePerRequest } from '../request-cache';
import { headOf, kindsByContent } from './kinds-by-content';
import { database, withConnection, type ArchiveModel } from '../database';
import {
  type CopyOrder,
  copyRows,
  kindsByName,
  escape,
  pathInGame,
  COLUMNS,
  MAX_PATH,
  type Guess,
} from './copy-entries';

/** Entries without a name whose first bytes are read at most; more would take longer than the whole scan. */
const MOST_GUESSED = 20_000;

export interface Written {
  /** Without the markers of a patch. */
  readonly entries: number;
  /** Those whose path is known. */
  readonly named: number;
  /** How entries are packed, in words, by the method that is in their rows. */
  readonly methods: Readonly<Record<string, string>>;
  /** Why paths cannot be read, the first few. */
  readonly faults: readonly Fault[];
  /** Kinds of entries whose names say nothing. */
  readonly byContent: ReadonlyMap<number, Kind>;
}

/** Archives with more entries than this have a part of the table to themselves. */
const OWN_TABLE_ROWS = 50_000;

/** Replaces the entries of an archive, all at once. */
export async function writeEntries(row: ArchiveModel, archive: Archive, signal: AbortSignal): Promise<Written> {
  const prefix = await prefixOf(row, archive.recipe);
  const guesses = await guessNameless(archive, signal);
  const written: CopyOrder['written'] = { entries: 0, named: 0, methods: {}, faults: [] };
  const kinds = await kindsByEnding(row.gameId);
  const pathOf = uniquePaths(archive.entries);
  const byContent = await kindsByContent(row.gameId, archive, pathOf, kindsByName(kinds), signal);
  const isLoose = archive.recipe.id === LOOSE_RECIPE;
  const own = isLoose ? await looseKindOf(row.gameId, row.path, await headOf(archive, 0)) : undefined;
  const rows = () => copyRows(row, archive, { prefix, pathOf, guesses, byContent, kinds, own, written, signal });
  await withConnection((client) =>
    archive.entries.count >= OWN_TABLE_ROWS
      ? fillOwnTable(client, row.id, rows)
      : inTransaction(client, async () => {
          await client.query('select forget_entries($1)', [row.id]);
          await copyInto(client, 'entries', rows);
        }),
  );
  return { ...written, byContent };
}

/** The entries of loose files that have none yet: each file is one. */
export async function writeLooseEntries(
  files: readonly { readonly row: ArchiveModel; readonly kind: Kind }[],
): Promise<void> {
  function* rows(): Generator<string> {
    for (const { row, kind } of files) {
      const path = escape(row.path.slice(0, MAX_PATH));
      const slash = path.lastIndexOf('/');
      const names = `${path}\t${slash < 0 ? '' : path.slice(0, slash)}\t${path.slice(slash + 1)}`;
      yield `${row.id}\t0\t${row.gameId}\t${names}\t${kind}\t${row.size}\t${row.size}\t0\t0\tf\t0\tt\t\n`;
    }
  }
  await withConnection((client) => inTransaction(client, () => copyInto(client, 'entries', rows)));
}

async function inTransaction(client: Client, work: () => Promise<void>): Promise<void> {
  await client.query('begin');
  try {
    await work();
    await client.query('commit');
  } catch (error) {
    await client.query('rollback').catch(() => {});
    throw error;
  }
}

async function copyInto(client: Client, table: string, rows: () => Iterable<string>): Promise<void> {
  const copy = client.query(copyFrom(`copy ${table} (${COLUMNS}) from stdin`));
  await pipeline(Readable.from(rows()), copy);
}

/**
 * A part of the table for one archive: filled before it is visible, then indexed at once, which takes a fraction of adding
 * to indexes row by row, and put in the place of what was there.
 */
async function fillOwnTable(client: Client, archive: number, rows: () => Iterable<string>): Promise<void> {
  const fresh = `entries_fresh_${archive}`;
  await inTransaction(client, async () => {
    await client.query(`drop table if exists ${fresh}`);
    await client.query(`create table ${fresh} (like entries including defaults)`);
    await copyInto(client, fresh, rows);
    await client.query(`set local maintenance_work_mem = '192MB'`);
    await client.query(`alter table ${fresh} add primary key (archive_id, n)`);
    await client.query(`create index on ${fresh} (game_id, path)`);
    // With it, the rows are not looked at again when the part joins the whole.
    await client.query(`alter table ${fresh} add check (archive_id = ${archive})`);
  });
  await inTransaction(client, async () => {
    await client.query('select forget_entries($1)', [archive]);
    await client.query(`alter table ${fresh} rename to entries_of_${archive}`);
    await client.query(`alter table entries attach partition entries_of_${archive} for values in (${archive})`);
  });
  await client.query(`analyze entries_of_${archive}`);
}

/** Entries of an archive in another are below the entry it is; those of a folder, in that folder. */
async function prefixOf(row: ArchiveModel, recipe: Recipe): Promise<string> {
  if (row.parentId === null || row.parentId === undefined) {
    if (recipe.id === FOUND_RECIPE) return `${row.path}/`;
    const folder = posix.dirname(row.path);
    const isInFolder = recipe.presents === 'folder' || recipe.id === LOOSE_RECIPE;
    return isInFolder && folder !== '.' ? `${folder}/` : '';
  }
  const [parent] = await database().query<{ path: string }>(
    'select path from entries where archive_id = :archive and n = :n',
    { replacements: { archive: row.parentId, n: row.parentN }, type: QueryTypes.SELECT },
  );
  return `${parent?.path ?? row.path}/`;
}

const looseKindOf = async (gameId: number, path: string, head: Uint8Array): Promise<Kind | undefined> =>
  (await kindByRecipe(path, head, await knownRecipes(gameId))) ?? looseKind(path, head);

/** What entries without a name hold, by their first bytes. */
async function guessNameless(archive: Archive, signal: AbortSignal): Promise<ReadonlyMap<number, Guess>> {
  const guesses = new Map<number, Guess>();
  const { entries, recipe } = archive;
  if (recipe.entries.hash === undefined && recipe.entries.id === undefined) return guesses;
  for (let n = 0; n < entries.count && guesses.size < MOST_GUESSED; n++) {
    if (entries.isNamed(n) || entries.isDeleted(n)) continue;
    throwIfStopped(signal);
    guesses.set(n, guessFromHead(await headOf(archive, n).catch(() => new Uint8Array(0))));
  }
  return guesses;
}

/** Where the entries of an open archive are in the game; made once, for a million paths take their time. */
const places = new WeakMap<Archive, Promise<{ prefix: string; pathOf: (n: number) => string }>>();

/** True when an entry of an archive still is what is under a path in the game: nested, nameless and loose ones too. */
export async function isEntryAt(row: ArchiveModel, archive: Archive, n: number, path: string): Promise<boolean> {
  if (n >= archive.entries.count) return false;
  let place = places.get(archive);
  if (place === undefined) {
    place = prefixOf(row, archive.recipe).then((prefix) => ({ prefix, pathOf: uniquePaths(archive.entries) }));
    places.set(archive, place);
  }
  const { prefix, pathOf } = await place;
  if (pathInGame(prefix, pathOf(n), undefined) === path) return true;
  if (archive.entries.isNamed(n)) return false;
  return pathInGame(prefix, pathOf(n), guessFromHead(await headOf(archive, n))) === path;
}

/** The path in the game of an entry of an archive. */
export async function pathInGameOf(archiveId: number, n: number): Promise<string> {
  const [row] = await oncePerRequest(`path ${archiveId} ${n}`, () =>
    database().query<{ path: string }>('select path from entries where archive_id = :archiveId and n = :n', {
      replacements: { archiveId, n },
      type: QueryTypes.SELECT,
    }),
  );
  return row?.path ?? `entry ${n}`;
}

/** The same of many entries; undefined where there is no such entry any more. */
export async function pathsInGame(
  entries: readonly (readonly [archive: number, n: number])[],
): Promise<readonly (string | undefined)[]> {
  const rows = await database().query<{ place: string; path: string }>(
    `select archive_id || ' ' || n as place, path from entries
     where (archive_id, n) in (select * from unnest($1::int[], $2::int[]))`,
    { bind: [entries.map(([archive]) => archive), entries.map(([, n]) => n)], type: QueryTypes.SELECT },
  );
  const paths = new Map(rows.map(({ place, path }) => [place, path]));
  return entries.map(([archive, n]) => paths.get(`${archive} ${n}`));
}

export async function forgetEntries(archiveId: number): Promise<void> {
  await database().query('select forget_entries(:archiveId)', { replacements: { archiveId } });
}

/**
 * Marks which of several entries of one path wins: the one in the archive that loads last, unless it says it is gone.
 * What is counted over all entries is counted here, once, and not at each look at the game.
 */
export async function settleWinners(gameId: number): Promise<void> {
  const steps = [
    // Few paths of a large game are in more than one archive: only these are sorted.
    `create temporary table contested on commit drop as
       select path from entries where game_id = :gameId group by path having count(*) > 1 or bool_or(deleted)`,
    'analyze contested',
    `update entries e set wins = true
     where e.game_id = :gameId and not e.wins and not exists (select 1 from contested c where c.path = e.path)`,
    `update entries e set wins = w.wins
     from (
       select e2.archive_id, e2.n,
              row_number() over (partition by e2.path order by a.position desc, e2.n desc) = 1 and not e2.deleted as wins
       from entries e2 join contested c on c.path = e2.path join archives a on a.id = e2.archive_id
       where e2.game_id = :gameId
     ) w
     where e.archive_id = w.archive_id and e.n = w.n and e.wins is distinct from w.wins`,
    `update archives a set covers = coalesce(w.covers, 0), removes = coalesce(w.removes, 0)
     from archives b left join (
       select e.archive_id, (count(*) filter (where e.wins and not e.deleted))::int as covers,
              (count(*) filter (where e.deleted))::int as removes
       from entries e join contested c on c.path = e.path where e.game_id = :gameId group by 1
     ) w on w.archive_id = b.id
     where a.id = b.id and b.game_id = :gameId`,
    `update games set entry_count = (select count(*) from entries where game_id = :gameId and wins),
                      catalogue = catalogue + 1
     where id = :gameId`,
  ];
  await database().transaction(async (transaction) => {
    for (const sql of steps) await database().query(sql, { replacements: { gameId }, transaction });
  });
}
