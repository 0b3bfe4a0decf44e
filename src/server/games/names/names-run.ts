/** Giving hashed entries their names: from lists, from patterns, and from what other entries say. */
import { sayNote, type Note } from '../../../core/notes';
import { createReadStream } from 'node:fs';
import { QueryTypes } from 'sequelize';
import { stat, readFile } from 'node:fs/promises';
import { throwIfStopped } from '../../../core/faults';
import { harvestPaths, keyOf, namesInList, parsePattern, quickHash, type WordLists } from '../../../core/names';
import { readEntry, type Archive, type Recipe, type Value } from '../../../core/recipe';
import type { PatternOrder } from '../../../workers/pool-thread';
import { ArchiveModel, database, NameListModel } from '../../database';
import { knownRecipes } from '../../recipes';
import type { RunContext, RunSetting } from '../../runs/run-context';
import type { RunResult } from '../../shapes';
import { blobPath } from '../../storage';
import { inThread, threadCount } from '../../threads';
import { archiveFile, withArchive } from '../archive-access';
import { settleWinners } from '../entry-index';
import { settleOrder } from '../load-order';
import { indexArchive } from '../scan/index-archive';

export interface PatternSource {
  readonly pattern: string;
  readonly words: WordLists;
}

/** Conflicts and odd lines that are kept with a list; the rest are counted. */
const MOST_NOTES = 50;
/** Content that is looked through for names. */
const MAX_HARVESTED_ENTRY = 16 << 20;
const MAX_HARVESTED_FILE = 512 << 20;
const LEAST_A_THREAD = 1 << 20;
const MOST_A_THREAD = 1 << 24;

/** The hashes of all archives of one recipe. */
interface Group {
  readonly recipe: Recipe;
  readonly archives: readonly ArchiveModel[];
  /** Every hash with its path; undefined where that is unknown. */
  readonly hashes: Map<string, string | undefined>;
  readonly values: readonly Value[];
}

/** Tests the names of lists and gives them to the entries; without a list, applies the names that are known. */
export async function namesRun(context: RunContext<'names'>): Promise<RunResult<'names'>> {
  const { gameId, input, log } = context;
  const groups = await groupsOf(gameId);
  const ids = input.lists;
  const all = { tested: 0, matched: 0, fresh: 0, notes: [] as Note[] };
  for (const id of ids) {
    const list = await NameListModel.findByPk(id);
    if (list === null) continue;
    const found = new Found(groups);
    const tested = await TESTS[list.kind](list, found, context);
    await keepNames(gameId, list, found, tested);
    log(`${list.name}: ${tested.toLocaleString('en')} tested, ${found.fresh.toLocaleString('en')} new names`);
    for (const note of found.notes) log(sayNote(note));
    all.tested += tested;
    all.matched += found.fitting.size;
    all.fresh += found.fresh;
    all.notes.push(...found.notes);
  }
  // Without a list, one was taken away.
  if (ids.length === 0 || all.fresh > 0) await applyNames(gameId, groups, context);
  const archives = await ArchiveModel.findAll({ where: { gameId, hashed: true }, order: [['position', 'ASC']] });
  return {
    ...all,
    archives: archives.map(({ path, namedCount, entryCount }) => ({ path, named: namedCount, of: entryCount })),
  };
}

const TESTS: Readonly<
  Record<NameListModel['kind'], (list: NameListModel, found: Found, context: RunSetting) => Promise<number>>
> = { list: testList, pattern: testPattern, harvest };

async function groupsOf(gameId: number): Promise<Group[]> {
  const recipes = (await knownRecipes(gameId)).filter(({ entries }) => entries.hashing !== undefined);
  const rows = await ArchiveModel.findAll({ where: { gameId, hashed: true, state: ['open', 'damaged'] } });
  const groups: Group[] = [];
  for (const recipe of recipes) {
    const archives = rows.filter((row) => row.recipe === recipe.id);
    const hashes = new Map<string, string | undefined>();
    const values: Value[] = [];
    for (const row of archives)
      await withArchive(row.id, async ({ entries }) => {
        for (let n = 0; n < entries.count; n++) {
          const value = entries.hash(n);
          if (value === undefined) continue;
          const key = keyOf(value);
          if (!hashes.has(key)) values.push(value);
          if (hashes.get(key) === undefined) hashes.set(key, entries.isNamed(n) ? entries.path(n) : undefined);
        }
      });
    if (values.length > 0) groups.push({ recipe, archives, hashes, values });
  }
  return groups;
}

/** What a search has found, with the names that do not go together. */
class Found {
  /** Every name that fits, known before or not: a list that goes takes only what no other gives. */
  readonly fitting = new Set<string>();
  readonly notes: Note[] = [];
  /** Hashes that had no name before. */
  fresh = 0;
  private readonly testers;

  constructor(readonly groups: readonly Group[]) {
    this.testers = groups.map((group) => ({ group, hashOf: quickHash(group.recipe.entries.hashing!) }));
  }

  tell(note: Note): void {
    if (this.notes.length < MOST_NOTES) this.notes.push(note);
  }

  /** @returns whether the name fits anything */
  test(path: string): boolean {
    let fits = false;
    for (const { group, hashOf } of this.testers) {
      const key = keyOf(hashOf(path));
      if (!group.hashes.has(key)) continue;
      fits = true;
      const known = group.hashes.get(key);
      if (known === undefined) {
        group.hashes.set(key, path);
        this.fresh++;
      } else if (known.toLowerCase() !== path.toLowerCase())
        this.tell({ code: 'names-same-hash', name: path, kept: known });
    }
    if (fits) this.fitting.add(path);
    return fits;
  }
}

async function testList(list: NameListModel, found: Found, { signal, progress }: RunSetting): Promise<number> {
  const text = await readFile(blobPath(list.source), 'utf8');
  let odd = 0;
  const names = namesInList(text, ({ line, reason }) => {
    odd++;
    found.tell({ code: 'names-line-skipped', line, reason });
  });
  let tested = 0;
  for (const { path } of names) {
    // Lists are written on systems with either slash.
    if (!found.test(path) && path.includes('\\')) found.test(path.replaceAll('\\', '/'));
    if (++tested % 65_536 === 0) {
      progress(tested, 0, 'names');
      throwIfStopped(signal);
      await new Promise((resolve) => setImmediate(resolve));
    }
  }
  if (odd > MOST_NOTES) found.notes.push({ code: 'names-lines-skipped', count: odd });
  return tested;
}

async function testPattern(list: NameListModel, found: Found, { signal, progress, log }: RunSetting): Promise<number> {
  const source = JSON.parse(list.source) as PatternSource;
  const { count } = parsePattern(source.pattern, source.words);
  const total = count * found.groups.length;
  let done = 0;
  for (const { recipe, values } of found.groups) {
    const width = Math.min(MOST_A_THREAD, Math.max(LEAST_A_THREAD, Math.ceil(count / threadCount() / 4)));
    const stretches = Array.from({ length: Math.ceil(count / width) }, (_, i) => i * width);
    const started = Date.now();
    const next = async (): Promise<void> => {
      for (let from = stretches.shift(); from !== undefined; from = stretches.shift()) {
        throwIfStopped(signal);
        const to = Math.min(count, from + width);
        const order: PatternOrder = { ...source, recipe: recipe.text, targets: values, from, to };
        for (const path of await inThread<PatternOrder, string[]>('searchNames', order, signal)) found.test(path);
        done += to - from;
        progress(done, total, 'names');
      }
    };
    await Promise.all(Array.from({ length: threadCount() }, next));
    const seconds = Math.max(0.001, (Date.now() - started) / 1000);
    log(`${recipe.title}: ${(count / seconds / 1e6).toFixed(1)} million names a second`);
    const chance = (count * values.length) / 2 ** hashBits(values);
    if (chance > 0.5) found.tell({ code: 'names-by-chance', count: Math.round(chance), recipe: recipe.title });
  }
  return count;
}

/** Bits of the hashes, by the largest of them. */
function hashBits(values: readonly Value[]): number {
  const bytes = values.find((value) => value instanceof Uint8Array);
  if (bytes instanceof Uint8Array) return bytes.length * 8;
  const largest = values.reduce<bigint>(
    (most, value) => (BigInt(value as number) > most ? BigInt(value as number) : most),
    0n,
  );
  return largest >> 32n > 0n ? 64 : largest >> 16n > 0n ? 32 : 16;
}

/** Looks through texts, tables and programs for paths. */
async function harvest(_: NameListModel, found: Found, { gameId, signal, progress, log }: RunSetting): Promise<number> {
  const rows = await ArchiveModel.findAll({ where: { gameId }, order: [['position', 'ASC']] });
  const total = rows.reduce((sum, row) => sum + row.size, 0);
  let done = 0;
  const seen = new Set<string>();
  const endings = await endingsOf(gameId);
  const look = async (chunks: AsyncIterable<Uint8Array>) => {
    for await (const path of harvestPaths(chunks)) {
      throwIfStopped(signal);
      if (seen.has(path)) continue;
      seen.add(path);
      found.test(path);
      // Games often name a thing once for all its files: the picture and the sound of that name.
      if (!/\.[^./]*$/.test(path)) for (const ending of endings) found.test(`${path}.${ending}`);
    }
  };
  for (const row of rows) {
    throwIfStopped(signal);
    try {
      if (row.state === 'open' || row.state === 'damaged')
        await withArchive(row.id, (archive) => lookInside(archive, look, signal));
      else if (row.parentId === null) {
        const path = await archiveFile(row);
        if ((await stat(path)).size <= MAX_HARVESTED_FILE) await look(createReadStream(path, { signal }));
      }
    } catch (error) {
      if (signal.aborted) throw error;
      log(`${row.path} was not looked through: ${(error as Error).message}`);
    }
    progress((done += row.size), total, 'bytes');
  }
  return seen.size;
}

const MOST_ENDINGS = 64;

/** The endings of the game's files, the commonest first. */
async function endingsOf(gameId: number): Promise<string[]> {
  const rows = await database().query<{ ending: string }>(
    `select substring(name from '\\.([A-Za-z0-9]{1,8})$') as ending from entries
     where game_id = :gameId and named and name like '%.%' group by 1 order by count(*) desc limit ${MOST_ENDINGS}`,
    { replacements: { gameId }, type: QueryTypes.SELECT },
  );
  return rows.flatMap(({ ending }) => (ending === null ? [] : [ending]));
}

async function lookInside(
  archive: Archive,
  look: (chunks: AsyncIterable<Uint8Array>) => Promise<void>,
  signal: AbortSignal,
): Promise<void> {
  const { entries } = archive;
  // Other archives may be hashed while this one stores its paths.
  const paths = async function* () {
    for (let n = 0; n < entries.count; n++) if (entries.isNamed(n)) yield Buffer.from(`${entries.path(n)}\n`);
  };
  await look(paths());
  for (let n = 0; n < entries.count; n++) {
    throwIfStopped(signal);
    // What a link leads to is read as itself.
    const isOther = entries.isDeleted(n) || entries.link(n) !== undefined;
    if (isOther || !(entries.size(n) <= MAX_HARVESTED_ENTRY)) continue;
    await look(readEntry(archive, n, { verify: false, signal })).catch((error: unknown) => {
      // An entry that cannot be read has no names to give; the scan says what is wrong with it.
      if (signal.aborted) throw error;
    });
  }
}

/** Keeps the names that were found, in one statement; they are all a rescan needs. */
async function keepNames(gameId: number, list: NameListModel, found: Found, tested: number): Promise<void> {
  await database().transaction(async (transaction) => {
    await database().query(
      `insert into names (game_id, list_id, path)
       select :gameId, :list, value from jsonb_array_elements_text(cast(:paths as jsonb)) on conflict do nothing`,
      { replacements: { gameId, list: list.id, paths: JSON.stringify([...found.fitting]) }, transaction },
    );
    await list.update({ tested, matched: found.fitting.size, notes: [...found.notes] }, { transaction });
  });
}

/** Reads the hashed archives again, so that their entries are under their names. */
async function applyNames(gameId: number, groups: readonly Group[], { signal, log }: RunSetting): Promise<void> {
  for (const { recipe, archives } of groups)
    for (const row of archives) {
      throwIfStopped(signal);
      await indexArchive({ row, recipe, signal, log });
    }
  await settleOrder(gameId);
  await settleWinners(gameId);
}
