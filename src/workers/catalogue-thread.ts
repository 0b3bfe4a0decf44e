/**
 * A thread of the server that holds the catalogues of the games that are looked at, so that a search over a million entries
 * neither asks the database nor keeps other requests waiting. It is asked by messages, and answers each by its number.
 */
import { parentPort, workerData } from 'node:worker_threads';
import { Client } from 'pg';
import { to as copyTo } from 'pg-copy-streams';
import {
  Catalogue,
  ColumnsBuilder,
  DELETED,
  NAMED,
  WINS,
  type CataloguePage,
  type CatalogueQuery,
  type FolderCount,
  type Overview,
} from '../core/catalogue';
import { faultOf, isFaultError, type Fault } from '../core/faults';
import type { KINDS } from '../core/game';
import { binaryRows } from './binary-copy';

export type Range = readonly [from: number, to: number];

/** What can be asked, with what comes back. */
export interface CatalogueTasks {
  page: { ask: { query: CatalogueQuery; offset: number; limit: number }; answer: CataloguePage };
  /** The paths at places of an answer. */
  paths: { ask: { query: CatalogueQuery; ranges: readonly Range[] }; answer: string[] };
  /** The place of an entry in an answer; -1 when it is not in it. */
  place: { ask: { query: CatalogueQuery; archive: number; n: number }; answer: number };
  /** The entries at places of an answer, as two columns. */
  numbers: {
    ask: { query: CatalogueQuery; ranges: readonly Range[] };
    answer: { archive: Uint32Array; n: Uint32Array };
  };
  /** The entries that texts represent. */
  resolve: { ask: { texts: readonly string[]; folder: string }; answer: string[] };
  folders: { ask: { parent: string; archive?: number | undefined }; answer: FolderCount[] };
  overview: { ask: { query: CatalogueQuery }; answer: Overview };
}
export type CatalogueTask = keyof CatalogueTasks;

export interface CatalogueOrder {
  readonly id: number;
  readonly game: number;
  /** A catalogue of another version is made again. */
  readonly version: number;
  readonly task: CatalogueTask;
  readonly ask: CatalogueTasks[CatalogueTask]['ask'];
}

export interface CatalogueReply {
  readonly id: number;
  readonly answer?: unknown;
  readonly fault?: Fault;
  /** What a defect has to say, for the log. */
  readonly defect?: string;
}

/** Rows of all catalogues together; the one that was asked least recently goes first. */
const MOST_ROWS = 3_000_000;

const catalogues = new Map<number, { readonly version: number; readonly catalogue: Promise<Catalogue> }>();

async function answer(order: CatalogueOrder): Promise<unknown> {
  const catalogue = await catalogueOf(order.game, order.version);
  const ask = order.ask as never;
  return TASKS[order.task](catalogue, ask);
}

const TASKS: { [T in CatalogueTask]: (catalogue: Catalogue, ask: CatalogueTasks[T]['ask']) => unknown } = {
  page: (catalogue, { query, offset, limit }) => catalogue.page(query, offset, limit),
  paths: (catalogue, { query, ranges }) => catalogue.paths(query, ranges),
  place: (catalogue, { query, archive, n }) => catalogue.placeOf(query, archive, n),
  numbers: (catalogue, { query, ranges }) => catalogue.numbers(query, ranges),
  resolve: (catalogue, { texts, folder }) => catalogue.resolve(texts, folder),
  folders: (catalogue, { parent, archive }) => catalogue.folders(parent, archive),
  overview: (catalogue, { query }) => catalogue.overview(query),
};

function catalogueOf(game: number, version: number): Promise<Catalogue> {
  const known = catalogues.get(game);
  catalogues.delete(game);
  const current = known?.version === version ? known : { version, catalogue: load(game) };
  catalogues.set(game, current);
  // A failure is not kept: the next question tries again.
  current.catalogue.then(makeRoom, () => catalogues.get(game) === current && catalogues.delete(game));
  return current.catalogue;
}

async function makeRoom(): Promise<void> {
  let rows = 0;
  for (const [game, { catalogue }] of [...catalogues].reverse()) {
    rows += (await catalogue.catch(() => undefined))?.columns.count ?? 0;
    if (rows > MOST_ROWS && game !== [...catalogues.keys()].at(-1)) catalogues.delete(game);
  }
}

const ENTRIES = (game: number) => `
  copy (
    select e.path, e.archive_id, e.n, e.size, e.stored, e.kind,
           (case when e.wins then ${WINS} else 0 end + case when e.deleted then ${DELETED} else 0 end
            + case when e.named then ${NAMED} else 0 end)::int,
           e.method, e.tag
    from entries e join archives a on a.id = e.archive_id where e.game_id = ${game} order by e.path, a.position desc
  ) to stdout (format binary)`;

async function load(game: number): Promise<Catalogue> {
  const client = new Client({ connectionString: (workerData as { databaseUrl: string }).databaseUrl });
  await client.connect();
  try {
    // A million paths are sorted in memory.
    await client.query(`set work_mem = '256MB'`);
    const archives = await client.query<{ id: number; path: string; entries: number }>(
      'select id, path, entry_count as entries from archives where game_id = $1 order by position, id',
      [game],
    );
    const builder = new ColumnsBuilder(archives.rows.reduce((sum, { entries }) => sum + entries, 0));
    for await (const fields of binaryRows(client.query(copyTo(ENTRIES(game))))) {
      builder.add({
        path: fields.bytes(0),
        archive: fields.whole(1),
        n: fields.whole(2),
        size: fields.whole(3),
        stored: fields.whole(4),
        kind: fields.text(5) as (typeof KINDS)[number],
        flags: fields.whole(6),
        method: fields.text(7),
        tag: fields.text(8),
      });
    }
    const catalogue = new Catalogue(builder.build(), new Map(archives.rows.map(({ id, path }) => [id, path])));
    setImmediate(() => warmUp(catalogue));
    return catalogue;
  } finally {
    await client.end();
  }
}

/** The first letters someone types should not wait until the engine has compiled what looks for them. */
function warmUp(catalogue: Catalogue): void {
  for (const search of ['', 'e', '-e', '*e', 'e -a'])
    catalogue.page({ search, folder: '', sort: 'path', order: 'up', sets: {} }, 0, 1);
}

parentPort!.on('message', (order: CatalogueOrder) => {
  answer(order).then(
    (result) => parentPort!.postMessage({ id: order.id, answer: result } satisfies CatalogueReply),
    (error: unknown) =>
      parentPort!.postMessage({
        id: order.id,
        ...(isFaultError(error) ? { fault: faultOf(error) } : { defect: (error as Error).stack ?? String(error) }),
      } satisfies CatalogueReply),
  );
});
