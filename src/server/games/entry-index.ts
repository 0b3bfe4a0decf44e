/** Entries in the database: written with COPY, made again from the archive whenever it changed. */
import { posix } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Client } from 'pg';
import { from as copyFrom } from 'pg-copy-streams';
import { QueryTypes } from 'sequelize';
import { throwIfStopped, type Fault } from '../../core/faults';
import { FOUND_RECIPE, LOOSE_RECIPE } from '../../core/carve';
import { guessFromHead, KIND_NAMES, kindOf, looseKind, declaredKind, type Kind } from '../../core/game';
import { contentTags, followLink, NAMELESS, uniquePaths, type Archive, type Recipe } from '../../core/recipe';
import { kindByRecipe, kindsByEnding, knownRecipes } from '../recipes';
import { askedOnce } from '../request-memo';
import { headOf, kindsByContent } from './kinds-by-content';
import { methodWords } from './method-words';
import { database, withConnection, type ArchiveModel } from '../database';

/** Few enough for the socket to take them at once: the database reads while the next ones are made. */
const ROWS_A_CHUNK = 256;
/** The volume of an entry whose offset counts in unlocked bytes: it has no place in a file. */
const IN_UNLOCKED_BYTES = -1;
/** Entries without a name whose first bytes are read at most; more would take longer than the whole scan. */
const MOST_GUESSED = 20_000;
/** Paths that cannot be read, reported one by one up to this many. */
const MOST_FAULTS = 20;
/** The longest path that is kept: what is longer is cut, and its entry is still found by the rest. */
const MAX_PATH = 2_000;

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

const COLUMNS =
  'archive_id, n, game_id, path, folder, name, kind, size, stored, at, method, deleted, volume, named, tag';

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

interface Guess {
  readonly kind: Kind;
  readonly extension: string;
}

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

function pathInGame(prefix: string, own: string, guess: Guess | undefined): string {
  const path =
    guess === undefined
      ? own
      : `${own.replace(/^nameless\//, `nameless/${KIND_NAMES[guess.kind].folder}/`)}.${guess.extension}`;
  return (prefix + path).slice(0, MAX_PATH);
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
  const [row] = await askedOnce(`path ${archiveId} ${n}`, () =>
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

interface CopyOrder {
  readonly prefix: string;
  /** The path of an entry in its archive. */
  readonly pathOf: (n: number) => string;
  readonly guesses: ReadonlyMap<number, Guess>;
  /** What the first bytes of entries say whose names say nothing. */
  readonly byContent: ReadonlyMap<number, Kind>;
  /** What recipes say of endings. */
  readonly kinds: ReadonlyMap<string, Kind>;
  /** What its first bytes say of a loose file. */
  readonly own: Kind | undefined;
  readonly written: { entries: number; named: number; methods: Record<string, string>; faults: Fault[] };
  readonly signal: AbortSignal;
}

function* copyRows(
  row: ArchiveModel,
  archive: Archive,
  { prefix, pathOf, guesses, byContent, kinds, own: ownKind, written, signal }: CopyOrder,
): Generator<string> {
  const { entries, dataSpace } = archive;
  let chunk = '';
  const kindByName = kindsByName(kinds);
  const tagOf = contentTags(archive);
  // The table of what was found in a file is no volume of it.
  const first = archive.recipe.id === FOUND_RECIPE ? 1 : 0;
  const volumeOf = (n: number) =>
    dataSpace === undefined ? Math.max(0, entries.volume(n) - first) : IN_UNLOCKED_BYTES;
  const declared = declaredKind(archive.recipe);
  const mayBeNameless = archive.recipe.entries.hash !== undefined || archive.recipe.entries.id !== undefined;
  for (let n = 0; n < entries.count; n++) {
    // Its folder is shown as soon as something lies in it.
    // A link to a folder, or out of the archive, has nothing to be shown or changed.
    const holder = followLink(archive, n);
    if (entries.isDirectory(n) || holder === undefined) continue;
    const named = !mayBeNameless || entries.isNamed(n);
    const deleted = entries.isDeleted(n);
    if (!deleted) written.entries++;
    if (!deleted && named) written.named++;
    const guess = guesses.get(n);
    const own = pathOf(n);
    if (own.startsWith(NAMELESS) && written.faults.length < MOST_FAULTS) {
      const damage = entries.pathDamage(n);
      if (damage !== undefined) written.faults.push({ file: archive.source.name, ...damage, entry: own });
    }
    // Entries without a name are found by their content.
    const path = pathInGame(prefix, own, guess);
    const size = entries.size(holder);
    const stored = Number.isNaN(entries.stored(n)) ? 0 : entries.stored(n);
    const kind = guess?.kind ?? ownKind ?? declared ?? byContent.get(n) ?? kindByName(path);
    // What is in a path is escaped once, for the folder and the name are parts of it.
    const shown = escape(path);
    const slash = shown.lastIndexOf('/');
    const tag = tagOf === undefined ? '' : escape(tagOf(n));
    const packed = entries.method(n);
    const key = String(packed);
    written.methods[key] ??= methodWords(archive.recipe, packed);
    const method = escape(key);
    chunk += `${row.id}\t${n}\t${row.gameId}\t${shown}\t${slash < 0 ? '' : shown.slice(0, slash)}\t${shown.slice(slash + 1)}\t${kind}\t${Number.isNaN(size) ? stored : size}\t${stored}\t${entries.at(n)}\t${method}\t${deleted ? 't' : 'f'}\t${volumeOf(n)}\t${named ? 't' : 'f'}\t${tag}\n`;
    if (n % ROWS_A_CHUNK === ROWS_A_CHUNK - 1) {
      throwIfStopped(signal);
      yield chunk;
      chunk = '';
    }
  }
  yield chunk;
}

/** The kind by the name alone, which is that of its ending: of a million names there are few. */
function kindsByName(byRecipe: ReadonlyMap<string, Kind>): (path: string) => Kind {
  const known = new Map<string, Kind>();
  return (path) => {
    const ending = path.slice(path.lastIndexOf('.') + 1);
    let kind = known.get(ending);
    if (kind === undefined) known.set(ending, (kind = byRecipe.get(ending.toLowerCase()) ?? kindOf(path)));
    return kind;
  };
}

/** COPY's text format: backslash escapes; a NUL cannot be kept and is shown as what it is. */
function escape(text: string): string {
  return /[\\\t\n\r\u0000]/.test(text)
    ? text
        .replaceAll('\\', '\\\\')
        .replaceAll('\t', '\\t')
        .replaceAll('\n', '\\n')
        .replaceAll('\r', '\\r')
        .replaceAll('\u0000', '\u2400')
    : text;
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
