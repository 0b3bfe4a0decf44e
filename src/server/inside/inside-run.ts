/** Looking inside the entries of a list for a text, a number or bytes. */
import { QueryTypes } from 'sequelize';
import type { z } from 'zod';
import { readChunks } from '../../core/bytes';
import { openFile } from '../../core/bytes/node';
import { faultOf, FaultError, sayFault, throwIfStopped } from '../../core/faults';
import type { soughtSchema } from '../../core/inside';
import { findInside, needlesFor, type Hit, type Needle } from '../../core/inside';
import { kindOf } from '../../core/game';
import { readEntry, type Archive } from '../../core/recipe';
import { catalogueQuery } from '../catalogue';
import { ArchiveModel, database, RunModel } from '../database';
import { archiveFile, requireGame } from '../games';
import { startRun } from '../runs';
import type { RunContext } from '../runs/run-context';
import { insideOrder, type HitAnswer, type HitsPage, type RunAnswer, type RunResult } from '../shapes';
import { eachEntry, FILE_ITSELF } from './each-entry';

/** Hits that are kept of a search, and of one entry. */
const MOST_HITS = 20_000;
const MOST_OF_ENTRY = 100;
/** Hits that are kept in one go. */
const TOGETHER = 200;

/** @throws FaultError `invalid-request` when what is sought represents no bytes, or the list for no entries */
export async function startInside(gameId: number, order: z.output<typeof insideOrder>): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  needlesFor(order.sought);
  await catalogueQuery(gameId, order.place);
  return startRun('search-inside', {
    title: `Searching for ${sayOf(order.sought)} in ${game.name}`,
    gameId,
    input: order,
  });
}

function sayOf(sought: z.output<typeof soughtSchema>): string {
  if (sought.is === 'number') return String(sought.number);
  return sought.is === 'text' ? `“${sought.text.slice(0, 40)}”` : sought.bytes.slice(0, 40);
}

export async function insideRun(context: RunContext<'search-inside'>): Promise<RunResult<'search-inside'>> {
  const { runId, gameId, input, log } = context;
  const { sought, place, ranges } = insideOrder.parse(input);
  const needles = needlesFor(sought);
  const query = await catalogueQuery(gameId, place);
  // A search that is resumed starts from the beginning.
  await database().query('delete from hits where run_id = :runId', { replacements: { runId } });
  const keeper = new HitKeeper(runId);
  const found = { with: 0, hits: 0, cut: false };
  const looked = await eachEntry(context, { query, ranges }, async ({ archive, archiveId, n, path }) => {
    const hits = await hitsIn(archive, n, needles, Math.min(MOST_OF_ENTRY, MOST_HITS - found.hits));
    if (hits.length === 0) return true;
    found.with++;
    found.hits += hits.length;
    if (hits.length === MOST_OF_ENTRY) log(`${await path()}: only the first ${MOST_OF_ENTRY} places are kept`);
    await keeper.keep({ archive: archiveId, n, path: await path() }, hits);
    return found.hits < MOST_HITS;
  });
  const wholeGame = ranges === undefined && query.folder === '' && query.archive === undefined && query.search === '';
  if (wholeGame && found.hits < MOST_HITS) await lookInFiles();
  await keeper.flush();
  found.cut = found.hits >= MOST_HITS;
  if (found.cut)
    log(`The search ended at ${MOST_HITS.toLocaleString('en')} places; what comes later was not looked at.`);
  return { ...looked, ...found };

  /** Files that nothing reads have no entries: they are looked through as they are. */
  async function lookInFiles(): Promise<void> {
    const rows = await ArchiveModel.findAll({ where: { gameId, state: 'unknown', parentId: null } });
    for (const row of rows) {
      throwIfStopped(context.signal);
      try {
        const source = await openFile(await archiveFile(row), row.path);
        const hits: Hit[] = [];
        try {
          const bytes = readChunks(source, 0, source.size, { signal: context.signal });
          for await (const hit of findInside(bytes, needles, Math.min(MOST_OF_ENTRY, MOST_HITS - found.hits)))
            hits.push(hit);
        } finally {
          await source.close();
        }
        if (hits.length === 0) continue;
        found.with++;
        found.hits += hits.length;
        await keeper.keep({ archive: row.id, n: FILE_ITSELF, path: row.path }, hits);
      } catch (error) {
        throwIfStopped(context.signal);
        log(sayFault(faultOf(error, row.path)));
      }
    }
  }
}

async function hitsIn(archive: Archive, n: number, needles: readonly Needle[], most: number): Promise<Hit[]> {
  const found: Hit[] = [];
  // Whether the checksum agrees is for other places to say.
  for await (const hit of findInside(readEntry(archive, n, { verify: false }), needles, most)) found.push(hit);
  return found;
}

interface HitRow extends Hit {
  readonly archive: number;
  readonly n: number;
  readonly path: string;
}

/** Writes hits while the search goes on, so that they are seen as they come. */
class HitKeeper {
  private waiting: HitRow[] = [];
  private number = 0;
  private last = Date.now();

  constructor(private readonly run: number) {}

  async keep(entry: { archive: number; n: number; path: string }, hits: readonly Hit[]): Promise<void> {
    this.waiting.push(...hits.map((hit) => ({ ...entry, ...hit })));
    if (this.waiting.length >= TOGETHER || Date.now() - this.last > 500) await this.flush();
  }

  async flush(): Promise<void> {
    this.last = Date.now();
    const rows = this.waiting.splice(0);
    if (rows.length === 0) return;
    const first = this.number;
    this.number += rows.length;
    const column = <T>(of: (row: HitRow) => T) => rows.map(of);
    await database().query(
      `insert into hits (run_id, number, archive_id, n, path, kind, at, length, form, around, lead)
       select $1, $2::int + row_number() over () - 1, * from unnest($3::int[], $4::int[], $5::text[], $6::text[],
         $7::bigint[], $8::int[], $9::text[], $10::bytea[], $11::int[])`,
      {
        bind: [
          this.run,
          first,
          column(({ archive }) => archive),
          column(({ n }) => n),
          column(({ path }) => path),
          column(({ path }) => kindOf(path)),
          column(({ at }) => at),
          column(({ length }) => length),
          column(({ as }) => as),
          column(({ around }) => Buffer.from(around)),
          column(({ lead }) => lead),
        ],
      },
    );
  }
}

/** What a search found so far, a page of it. */
export async function listHits(gameId: number, runId: number, offset: number): Promise<HitsPage> {
  const run = await RunModel.findOne({ where: { id: runId, gameId, kind: 'search-inside' } });
  if (run === null) throw new FaultError({ code: 'not-found', what: 'there is no such search' });
  const [sums] = await database().query<{ total: number; entries: number }>(
    'select count(*)::int as total, count(distinct (archive_id, n))::int as entries from hits where run_id = :runId',
    { replacements: { runId }, type: QueryTypes.SELECT },
  );
  const rows = await database().query<Omit<HitAnswer, 'around'> & { around: Buffer }>(
    `select number, archive_id as archive, n, path, kind, at::float8 as at, length, form, around, lead from hits
     where run_id = :runId and number >= :offset order by number limit 200`,
    { replacements: { runId, offset }, type: QueryTypes.SELECT },
  );
  return { ...sums!, rows: rows.map((row) => ({ ...row, around: row.around.toString('base64') })) };
}
