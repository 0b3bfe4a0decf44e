/** Tables of records: looked through, followed, and changed value by value. */
import { FaultError } from '../../core/faults';
import { ChangeModel, GameModel } from '../database';
import { profileOf, requireGame } from '../games';
import type {
  CellEdit,
  RecordLine,
  RecordReference,
  RecordsPage,
  RecordsQuery,
  RecordTable,
  RecordTablesAnswer,
  ReferenceEdit,
  WhereAnswer,
} from '../shapes';
import { readBlob } from '../storage';
import { recordsOf } from './read';
import { placeOf, select, tablesOf } from './tables';

/** Fields that are listed for a value. */
const MOST_FIELDS = 500;

export async function listRecordTables(gameId: number): Promise<RecordTablesAnswer> {
  const game = await requireGame(gameId);
  const tables = await tablesOf(gameId);
  return {
    known: game.recordsFor != null,
    stale: game.recordsFor !== game.catalogue,
    tables,
    references: await Promise.all(
      profileOf(game).references.map(async ({ field, to }) => ({
        field,
        to,
        dangling: await danglingOf(tables, field, to),
      })),
    ),
  };
}

const LEADS_NOWHERE = `not exists (select 1 from record_values t where t.table_id = $3 and t.field = $4 and t.value = v.value)`;

async function danglingOf(tables: readonly RecordTable[], field: string, to: string): Promise<number | null> {
  const [from, target] = [placeOf(tables, field), placeOf(tables, to)];
  if (from === undefined || target === undefined) return null;
  const [row] = await select<{ count: number }>(
    `select count(distinct v.row_id)::int as count from record_values v where v.table_id = $1 and v.field = $2 and ${LEADS_NOWHERE}`,
    [from.table, from.column, target.table, target.column],
  );
  return row!.count;
}

/** Declares what a field refers to, in the profile of the game; null takes it back. @throws FaultError `not-found` */
export async function setReference(gameId: number, { field, to }: ReferenceEdit): Promise<RecordReference[]> {
  const game = await requireGame(gameId);
  const tables = await tablesOf(gameId);
  for (const one of [field, ...(to === null ? [] : [to])])
    if (placeOf(tables, one) === undefined)
      throw new FaultError({ code: 'not-found', what: `there is no field ${one}`, hint: 'Gather the records again.' });
  const profile = profileOf(game);
  const rest = profile.references.filter((one) => one.field !== field);
  const references = to === null ? rest : [...rest, { field, to }];
  await GameModel.update({ profile: { ...profile, references } }, { where: { id: gameId } });
  return [...(await listRecordTables(gameId)).references];
}

/** Rows of one table; of files that are changed, as the game will have them. @throws FaultError `not-found` */
export async function listRecords(gameId: number, query: RecordsQuery): Promise<RecordsPage> {
  const tables = await tablesOf(gameId);
  const table = tables.find(({ id }) => id === query.table);
  if (table === undefined)
    throw new FaultError({
      code: 'not-found',
      what: 'there is no such table any more',
      hint: 'Gather the records again.',
    });
  const bind: unknown[] = [table.id];
  const put = (value: unknown) => `$${bind.push(value)}`;
  const wanted = ['r.table_id = $1'];
  if (query.search !== '')
    wanted.push(`(r.cells::text || ' ' || r.path) ilike ${put(`%${query.search.replace(/[\\%_]/g, '\\$&')}%`)}`);
  if (query.column !== undefined && query.value !== undefined)
    wanted.push(
      `exists (select 1 from record_values v where v.row_id = r.id and v.field = ${put(query.column)} and v.value = ${put(query.value)})`,
    );
  if (query.dangling && query.column !== undefined) {
    const name = `${table.name}: ${query.column}`;
    const reference = profileOf(await requireGame(gameId)).references.find(({ field }) => field === name);
    const target = reference === undefined ? undefined : placeOf(tables, reference.to);
    if (target !== undefined)
      wanted.push(`exists (select 1 from record_values v where v.row_id = r.id and v.field = ${put(query.column)}
        and not exists (select 1 from record_values t where t.table_id = ${put(target.table)} and t.field = ${put(target.column)} and t.value = v.value))`);
  }
  const where = wanted.join(' and ');
  const [count] = await select<{ total: number }>(
    `select count(*)::int as total from record_rows r where ${where}`,
    bind,
  );
  const column = table.columns.find(({ name }) => name === query.sort);
  const direction = query.order === 'down' ? 'desc' : 'asc';
  const cell = column === undefined ? '' : put(column.name);
  const sorted =
    column === undefined
      ? query.sort === 'path'
        ? `r.path ${direction}, r.id`
        : 'r.id'
      : column.kind === 'whole' || column.kind === 'number'
        ? `(case when jsonb_typeof(r.cells -> ${cell}) = 'number' then (r.cells ->> ${cell})::numeric end) ${direction} nulls last, r.id`
        : `r.cells ->> ${cell} ${direction} nulls last, r.id`;
  const rows = await select<Omit<RecordLine, 'changed' | 'values'> & { cells: RecordLine['values'] }>(
    `select r.id::float8 as id, r.path, r.archive_id as archive, r.n, r.pointer, r.cells from record_rows r
     where ${where} order by ${sorted} limit ${put(query.limit)} offset ${put(query.offset)}`,
    bind,
  );
  return { total: count!.total, rows: await asChanged(gameId, table.name, rows) };
}

/** Rows of files that are changed are read from the change. */
async function asChanged(
  gameId: number,
  table: string,
  rows: readonly (Omit<RecordLine, 'changed' | 'values'> & { cells: RecordLine['values'] })[],
): Promise<RecordLine[]> {
  const paths = [...new Set(rows.map(({ path }) => path))];
  const changes = await ChangeModel.findAll({ where: { gameId, path: paths, undone: false, action: 'replace' } });
  const fresh = new Map<string, Map<string, RecordLine['values']>>();
  for (const { path, blob } of changes) {
    // A change that cannot be read any more shows what the game has: the table is not lost for one file.
    const all = await recordsOf(gameId, await readBlob(blob), path).catch(() => undefined);
    const own = all?.filter((row) => row.table === table);
    if (own !== undefined)
      fresh.set(path, new Map(own.map(({ pointer, values }) => [JSON.stringify(pointer), values])));
  }
  return rows.map(({ cells, ...row }) => {
    const own = fresh.get(row.path);
    return { ...row, changed: own !== undefined, values: own?.get(JSON.stringify(row.pointer)) ?? cells };
  });
}

/** Where a value is set or read, over the whole game. */
export async function whereIs(gameId: number, value: string): Promise<WhereAnswer> {
  const fields = await select<WhereAnswer['fields'][number]>(
    `select t.id as table, t.name, v.field, count(*)::int as count from record_values v join record_tables t on t.id = v.table_id
     where t.game_id = $1 and v.value = $2 group by t.id, t.name, v.field order by count(*) desc, t.name limit ${MOST_FIELDS}`,
    [gameId, value],
  );
  return { value, fields, total: fields.reduce((sum, { count }) => sum + count, 0) };
}

/** The values of a list that was typed, or the one value. */
function listed(typed: string): string[] {
  try {
    const value = JSON.parse(typed) as unknown;
    if (Array.isArray(value)) return value.map(String);
  } catch {
    // A text, which need not be JSON.
  }
  return [typed];
}

export async function checkReference(gameId: number, { table, column, typed, path }: CellEdit): Promise<void> {
  const tables = await tablesOf(gameId);
  const own = tables.find(({ id }) => id === table);
  const reference = profileOf(await requireGame(gameId)).references.find(
    ({ field }) => field === `${own?.name}: ${column}`,
  );
  const target = reference === undefined ? undefined : placeOf(tables, reference.to);
  if (target === undefined) return;
  const missing: string[] = [];
  for (const value of listed(typed)) {
    const [found] = await select<{ count: number }>(
      'select count(*)::int as count from record_values where table_id = $1 and field = $2 and value = $3',
      [target.table, target.column, value],
    );
    if (found!.count === 0) missing.push(value);
  }
  if (missing.length === 0) return;
  throw new FaultError({
    code: 'conflict',
    entry: path,
    field: column,
    what: 'no row is called so',
    expected: `a value of ${reference!.to}`,
    found: missing.join(', '),
  });
}
