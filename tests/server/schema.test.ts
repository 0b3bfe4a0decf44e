/** @jest-environment node */
import { QueryTypes, type Transaction } from 'sequelize';
import { database, migrate } from '../../src/server/database';
import { MIGRATIONS } from '../../src/server/database/migrate';
import { buildChanges } from '../../src/server/put-back/build-changes';

beforeAll(async () => void (await migrate()));
afterAll(() => database().close());

const ask = <T extends object>(sql: string, transaction?: Transaction) =>
  database().query<T>(sql, { type: QueryTypes.SELECT, transaction });

/** Entries are swapped by the million, in partitions that are dropped whole: no constraint is on them. */
const FREE = /^(entries|hits|record_rows|record_values)/;

test('every column that names a row of another table is a foreign key', async () => {
  const columns = await ask<{ name: string }>(`
    select c.relname || '.' || a.attname as name
    from pg_attribute a join pg_class c on c.oid = a.attrelid join pg_namespace n on n.oid = c.relnamespace
    where n.nspname = 'public' and c.relkind in ('r', 'p') and a.attnum > 0 and not a.attisdropped
      and (a.attname like '%\\_id' or a.attname = 'superseded_by')
      and not exists (select from pg_constraint f where f.conrelid = c.oid and f.contype = 'f' and a.attnum = any(f.conkey))`);
  expect(columns.map(({ name }) => name).filter((name) => !FREE.test(name))).toEqual([]);
});

test('every foreign key has an index, so that deleting what it names is no walk over the table', async () => {
  const keys = await ask<{ name: string }>(`
    select c.relname || '.' || a.attname as name
    from pg_constraint f join pg_class c on c.oid = f.conrelid join pg_attribute a on a.attrelid = c.oid and a.attnum = f.conkey[1]
    join pg_namespace n on n.oid = c.relnamespace
    where f.contype = 'f' and n.nspname = 'public'
      and not exists (select from pg_index i where i.indrelid = c.oid and i.indkey[0] = a.attnum)`);
  expect(keys.map(({ name }) => name)).toEqual([]);
});

test('what each table is asked for by most is answered from an index', async () => {
  const asked = [
    'select * from build_changes where build_id = 1 order by position',
    'select * from builds where game_id = 1 order by number desc limit 1',
    `select * from installs where game_id = 1 and state = 'in'`,
    'select * from changes where game_id = 1 and not undone',
    `select * from runs where state = 'waiting'`,
    'select * from archives where game_id = 1',
    'select * from keys where game_id = 1',
    `select * from incoming_files where game_id = 1 and drop_id = 1 and state = 'waiting'`,
  ];
  await database().transaction(async (transaction) => {
    // Tables of tests are small, and small tables are read whole.
    await database().query('set local enable_seqscan = off', { transaction });
    for (const sql of asked) {
      const plan = (await ask<{ 'QUERY PLAN': string }>(`explain ${sql}`, transaction)).map((row) => row['QUERY PLAN']);
      expect({ sql, plan: plan.join('\n') }).toEqual({ sql, plan: expect.not.stringContaining('Seq Scan') });
    }
  });
});

test('the changes of builds that are there become rows', async () => {
  const undo = new Error('undone again');
  const whole = {
    ...{
      path: 'a/b.png',
      blob: 'f'.repeat(64),
      size: 4_000_000_000,
      fileName: 'b.png',
      kind: 'picture',
      action: 'add',
    },
    ...{ into: 'core.hold', loop: [3, 9], base: 'e'.repeat(64), mod: 'Snow', beside: true },
  };
  const bare = { path: 'c.txt', blob: '' };
  await expect(
    database().transaction(async (transaction) => {
      const run = (sql: string) => database().query(sql, { transaction });
      await run('create schema before; set local search_path to before');
      const last = MIGRATIONS.findIndex(({ name }) => name === '014-build-changes');
      for (const { up } of MIGRATIONS.slice(0, last)) await run(up);
      await run(`insert into games (name, folder) values ('g', '/g')`);
      await run(
        `insert into builds (game_id, number, how, files, changes)
         values (1, 1, 'keep', '[]', '${JSON.stringify([whole, bare])}'), (1, 2, 'keep', '[]', '[]')`,
      );
      for (const { up } of MIGRATIONS.slice(last)) await run(up);
      expect(await ask('select change_count as count from builds order by id', transaction)).toEqual([
        { count: 1 },
        { count: 0 },
      ]);
      expect(
        await ask(
          `select path, blob, size, file_name as "fileName", kind, action, into_archive as "into", loop, base, mod, beside
           from build_changes where build_id = 1 order by position`,
          transaction,
        ),
      ).toEqual([
        { ...whole, size: '4000000000' },
        expect.objectContaining({ ...bare, size: null, mod: null, beside: false }),
      ]);
      throw undo;
    }),
  ).rejects.toBe(undo);
  expect(await buildChanges(-1)).toEqual([]);
});
