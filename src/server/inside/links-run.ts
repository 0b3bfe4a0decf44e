/** What names what: paths, hashes of paths and long ids that are in the content of entries. */
import { posix } from 'node:path';
import { QueryTypes } from 'sequelize';
import { collect } from '../../core/bytes';
import { faultOf, sayFault, throwIfStopped } from '../../core/faults';
import { PICTURE_ENDINGS } from '../../core/forms/picture';
import { KnownNumbers } from '../../core/inside';
import { harvestPaths } from '../../core/names';
import { readEntry } from '../../core/recipe';
import { askCatalogue, catalogueQuery } from '../catalogue';
import { ArchiveModel, database, GameModel } from '../database';
import { pathInGameOf, requireGame, withArchive } from '../games';
import { startRun } from '../runs';
import type { RunContext, RunSetting } from '../runs/run-context';
import { entryPlace, type LinksAnswer, type RunAnswer, type RunResult } from '../shapes';
import { eachEntry } from './each-entry';

/** Pictures in formats of all games, which name nothing of one, but for drawings; those of a game's own may. */
const OPEN_PICTURES = PICTURE_ENDINGS.filter((ending) => ending !== 'svg');
/** Entries whose content may name others. */
const NAMING = ['-kind:sound', '-kind:film', ...OPEN_PICTURES.map((ending) => `-*.${ending}`)].join(' ');
/** Larger entries are tables of data, and their names are found by a search inside. */
const MOST_BYTES = 8 << 20;
const MOST_TEXTS = 20_000;
const ROWS_A_STATEMENT = 5_000;
/** An entry as one number: its archive this many times, and its own number. */
const PLACES = 2 ** 32;
/** Links of one entry that are shown. */
const SHOWN = 60;

export async function startLinks(gameId: number): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  return startRun('links', { title: `Scanning references in ${game.name}`, gameId, input: {} });
}

export async function linksRun(context: RunContext<'links'>): Promise<RunResult<'links'>> {
  const { gameId, log } = context;
  const game = await requireGame(gameId);
  const listOf = (size: string) => catalogueQuery(gameId, entryPlace.parse({ search: `${NAMING} size:${size}` }));
  const large = await askCatalogue(gameId, 'page', { query: await listOf(`>${MOST_BYTES}`), offset: 0, limit: 1 });
  if (large.total > 0)
    log(`${large.total.toLocaleString('en')} entries above ${MOST_BYTES.toLocaleString('en')} bytes were not read.`);
  const links: [from: string, to: string][] = [];
  const query = await listOf(`<=${MOST_BYTES}`);
  const known = await knownNumbers(context);
  const looked = await eachEntry(context, { query }, async ({ archive, n, path: pathOf }) => {
    const texts = new Set<string>();
    const bytes = await collect(readEntry(archive, n, { verify: false }));
    for await (const text of harvestPaths(one(bytes))) {
      texts.add(text);
      if (texts.size >= MOST_TEXTS) break;
    }
    const numbered = new Set(known.in(bytes));
    if (texts.size === 0 && numbered.size === 0) return true;
    const path = await pathOf();
    for (const place of numbered) {
      const named = await pathInGameOf(Math.floor(place / PLACES), place % PLACES);
      if (named !== path) links.push([path, named]);
    }
    if (texts.size >= MOST_TEXTS)
      log(`${path}: only its first ${MOST_TEXTS.toLocaleString('en')} texts were looked up`);
    const folder = posix.dirname(path) === '.' ? '' : posix.dirname(path);
    for (const found of await askCatalogue(gameId, 'resolve', { texts: [...texts], folder }))
      if (found !== path) links.push([path, found]);
    return true;
  });
  await keepLinks(gameId, links, game.catalogue);
  return { ...looked, links: links.length };
}

async function* one<T>(value: T): AsyncGenerator<T> {
  yield value;
}

/** The numbers by which the game knows entries: hashes of their paths, and ids too long to be anywhere by chance. */
async function knownNumbers({ gameId, signal, log }: RunSetting): Promise<KnownNumbers<number>> {
  const known = new KnownNumbers<number>();
  for (const { id, path } of await ArchiveModel.findAll({ where: { gameId, state: 'open' } }))
    try {
      await withArchive(id, async ({ entries, recipe }) => {
        const { hash, id: numbering } = recipe.entries;
        if (hash === undefined && numbering === undefined) return;
        for (let n = 0; n < entries.count; n++) {
          throwIfStopped(signal);
          known.add(hash === undefined ? entries.id(n) : entries.hash(n), id * PLACES + n);
        }
      });
    } catch (error) {
      throwIfStopped(signal);
      log(sayFault(faultOf(error, path)));
    }
  return known;
}

/** All at once: until then the links from before hold. */
async function keepLinks(gameId: number, links: readonly (readonly [string, string])[], made: number): Promise<void> {
  await database().transaction(async (transaction) => {
    await database().query('delete from links where game_id = :gameId', { replacements: { gameId }, transaction });
    for (let from = 0; from < links.length; from += ROWS_A_STATEMENT) {
      const part = links.slice(from, from + ROWS_A_STATEMENT);
      await database().query(
        `insert into links (game_id, from_path, to_path) select $1, * from unnest($2::text[], $3::text[])
         on conflict do nothing`,
        { bind: [gameId, part.map(([path]) => path), part.map(([, path]) => path)], transaction },
      );
    }
    await GameModel.update({ linksFor: made }, { where: { id: gameId }, transaction });
  });
}

/** What an entry names and what names it, and what these name in turn: what belongs together. */
export async function linksOf(gameId: number, path: string): Promise<LinksAnswer> {
  const game = await requireGame(gameId);
  const select = (sql: string, replacements: object) =>
    database().query<{ from: string; to: string }>(sql, {
      replacements: { gameId, path, shown: SHOWN, ...replacements },
      type: QueryTypes.SELECT,
    });
  const near = await select(
    `(select from_path as from, to_path as to from links where game_id = :gameId and from_path = :path limit :shown)
     union (select from_path, to_path from links where game_id = :gameId and to_path = :path limit :shown)`,
    {},
  );
  const neighbours = [...new Set(near.flatMap(({ from, to }) => [from, to]))];
  const far =
    neighbours.length === 0
      ? []
      : await select(
          `select from_path as from, to_path as to from links
           where game_id = :gameId and from_path in (:neighbours) limit :shown`,
          { neighbours },
        );
  const known = new Set(near.map(({ from, to }) => `${from}\n${to}`));
  return {
    known: game.linksFor !== null && game.linksFor !== undefined,
    stale: game.linksFor !== game.catalogue,
    uses: near.filter(({ from }) => from === path).map(({ to }) => to),
    usedBy: near.filter(({ to }) => to === path).map(({ from }) => from),
    around: [...near, ...far.filter(({ from, to }) => !known.has(`${from}\n${to}`))],
  };
}
