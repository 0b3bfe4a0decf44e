/** The run that gathers records: every file of them is read once, and its rows go into tables. */
import { QueryTypes } from 'sequelize';
import { collect } from '../../core/bytes';
import { Columns, type CellValue, type RecordRow } from '../../core/forms/records';
import { readEntry } from '../../core/recipe';
import { askCatalogue, catalogueQuery } from '../catalogue';
import { database, GameModel } from '../database';
import { requireGame } from '../games';
import { eachEntry } from '../inside';
import { endingsOf } from '../recipes';
import { startRun } from '../runs';
import type { RunContext } from '../runs/run-context';
import { entryPlace, type RunAnswer, type RunResult } from '../shapes';
import { recordsOf } from './read';

/** Endings of files that hold records. */
const ENDINGS = ['json', 'jsonl', 'ndjson', 'csv', 'tsv', 'ini', 'cfg'];
/** Larger files are data of another kind, and are searched instead. */
const MOST_BYTES = 16 << 20;
const ROWS_A_STATEMENT = 2_000;
/** Longer texts are read, and not looked for as a whole. */
const MOST_VALUE = 120;

export async function startRecords(gameId: number): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  return startRun('records', { title: `Reading the records of ${game.name}`, gameId, input: {} });
}

interface Gathered {
  readonly columns: Columns;
  id: number;
  rows: number;
}

interface Waiting {
  readonly table: number;
  readonly archive: number;
  readonly n: number;
  readonly path: string;
  readonly row: RecordRow;
}

export async function recordsRun(context: RunContext<'records'>): Promise<RunResult<'records'>> {
  const { gameId, log } = context;
  const game = await requireGame(gameId);
  const tables = new Map<string, Gathered>();
  let total = 0;
  // All at once: until then the tables from before hold.
  await database().transaction(async (transaction) => {
    await database().query('delete from record_tables where game_id = :gameId', {
      replacements: { gameId },
      transaction,
    });
    let waiting: Waiting[] = [];
    const flush = async () => {
      if (waiting.length === 0) return;
      const [rows] = (await database().query(
        `insert into record_rows (table_id, archive_id, n, path, pointer, cells)
         select * from unnest($1::int[], $2::int[], $3::int[], $4::text[], $5::jsonb[], $6::jsonb[]) returning id`,
        {
          bind: [
            waiting.map(({ table }) => table),
            waiting.map(({ archive }) => archive),
            waiting.map(({ n }) => n),
            waiting.map(({ path }) => path),
            waiting.map(({ row }) => JSON.stringify(row.pointer)),
            waiting.map(({ row }) => JSON.stringify(row.values)),
          ],
          transaction,
        },
      )) as [{ id: string }[], unknown];
      const values = waiting.flatMap(({ table, row }, i) =>
        Object.entries(row.values).flatMap(([field, value]) =>
          textsOf(value).map((text) => ({ table, row: rows[i]!.id, field, text })),
        ),
      );
      await database().query(
        `insert into record_values (table_id, row_id, field, value)
         select * from unnest($1::int[], $2::bigint[], $3::text[], $4::text[])`,
        {
          bind: [
            values.map(({ table }) => table),
            values.map(({ row }) => row),
            values.map(({ field }) => field),
            values.map(({ text }) => text),
          ],
          transaction,
        },
      );
      waiting = [];
    };
    const endings = [...ENDINGS, ...(await endingsOf(gameId, 'records'))];
    const winners = await winnersOf(gameId, endings);
    for (const ending of endings) {
      const place = entryPlace.parse({ search: `*.${ending} size:<=${MOST_BYTES}` });
      const query = await catalogueQuery(gameId, place);
      const { total: some } = await askCatalogue(gameId, 'page', { query, offset: 0, limit: 1 });
      if (some === 0) continue;
      await eachEntry(context, { query }, async ({ archive, archiveId, n, path: pathOf }) => {
        // What another archive covers is not what the game reads.
        if (!winners.has(`${archiveId}.${n}`)) return true;
        const path = await pathOf();
        for (const row of await recordsOf(gameId, await collect(readEntry(archive, n, { verify: false })), path)) {
          let table = tables.get(row.table);
          if (table === undefined) {
            table = { columns: new Columns(), id: await newTable(row.table), rows: 0 };
            tables.set(row.table, table);
          }
          table.columns.add(row);
          table.rows++;
          total++;
          waiting.push({ table: table.id, archive: archiveId, n, path, row });
          if (waiting.length >= ROWS_A_STATEMENT) await flush();
        }
        return true;
      });
    }
    await flush();
    for (const { id, rows, columns } of tables.values())
      await database().query('update record_tables set rows = $2, columns = $3 where id = $1', {
        bind: [id, rows, JSON.stringify(columns.all())],
        transaction,
      });
    await GameModel.update({ recordsFor: game.catalogue }, { where: { id: gameId }, transaction });

    async function newTable(name: string): Promise<number> {
      const [[made]] = (await database().query(
        `insert into record_tables (game_id, name, rows, columns) values ($1, $2, 0, '[]') returning id`,
        { bind: [gameId, name], transaction },
      )) as [{ id: number }[], unknown];
      return made!.id;
    }
  });
  log(`${total.toLocaleString('en')} rows in ${tables.size.toLocaleString('en')} tables.`);
  return { tables: tables.size, rows: total };
}

/** The entries of records that win, as `archive.n`. */
async function winnersOf(gameId: number, endings: readonly string[]): Promise<Set<string>> {
  const rows = await database().query<{ mark: string }>(
    `select archive_id || '.' || n as mark from entries where game_id = :gameId and wins and not deleted and name ~* :ending`,
    { replacements: { gameId, ending: `\\.(${endings.join('|')})$` }, type: QueryTypes.SELECT },
  );
  return new Set(rows.map(({ mark }) => mark));
}

/** Values as they are looked for: each of a list by itself. */
function textsOf(value: CellValue): string[] {
  const texts = (Array.isArray(value) ? value : [value]).filter((one) => one !== null).map(String);
  return [...new Set(texts)].filter((text) => text !== '' && text.length <= MOST_VALUE);
}
