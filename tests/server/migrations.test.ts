/** @jest-environment node */
/** Migrations on data: whatever version of the tables a person has, no row is lost on the way to this one. */
import { QueryTypes, type Transaction } from 'sequelize';
import { sayFault, type Fault } from '../../src/core/faults';
import { noteSchema, sayNote, type Note } from '../../src/core/notes';
import { database, migrate } from '../../src/server/database';
import { MIGRATIONS } from '../../src/server/database/migrate';

beforeAll(async () => void (await migrate()));
afterAll(() => database().close());

interface Column {
  readonly table: string;
  readonly column: string;
  readonly type: string;
  readonly required: boolean;
  /** The table a foreign key names. */
  readonly parent: string | null;
  /** A check of the column. */
  readonly check: string | null;
}

/** Columns of the tables of a schema; partitions belong to their table. */
const COLUMNS = `
  select c.relname as "table", a.attname as "column", format_type(a.atttypid, null) as type,
         a.attnotnull and not a.atthasdef and a.attidentity = '' as required,
         (select p.relname from pg_constraint f join pg_class p on p.oid = f.confrelid
          where f.conrelid = c.oid and f.contype = 'f' and f.conkey[1] = a.attnum limit 1) as parent,
         (select pg_get_constraintdef(k.oid) from pg_constraint k
          where k.conrelid = c.oid and k.contype = 'c' and k.conkey = array[a.attnum] limit 1) as "check"
  from pg_attribute a join pg_class c on c.oid = a.attrelid join pg_namespace n on n.oid = c.relnamespace
  where n.nspname = 'before' and c.relkind = 'r' and not c.relispartition and a.attnum > 0 and not a.attisdropped
  order by c.relname, a.attnum`;

const ONE_OF_TYPE: Readonly<Record<string, string>> = {
  text: `'a'`,
  jsonb: `'[]'`,
  boolean: 'false',
  bytea: `'\\x00'`,
  'timestamp with time zone': 'now()',
};

/** A value that a column takes. */
const valueOf = ({ type, check }: Column): string =>
  /'([^']*)'::text/.exec(check ?? '')?.[0] ?? ONE_OF_TYPE[type] ?? (type.endsWith('[]') ? `'{}'` : '1');

/** Tables in an order in which those that are named by others come first. */
function inOrder(columns: readonly Column[]): string[] {
  const tables = [...new Set(columns.map(({ table }) => table))];
  const ordered: string[] = [];
  const add = (table: string): void => {
    if (ordered.includes(table)) return;
    const parents = columns.filter((one) => one.table === table && one.required && one.parent !== null);
    for (const { parent } of parents) if (parent !== table) add(parent!);
    ordered.push(table);
  };
  for (const table of tables) add(table);
  return ordered;
}

const ask = <T extends object>(sql: string, transaction: Transaction) =>
  database().query<T>(sql, { type: QueryTypes.SELECT, transaction });

/** What a scan makes again from the files of the game. */
const MADE_AGAIN = ['entries'];

/** Puts one row into each table. @returns how many of these no scan makes again */
async function fill(transaction: Transaction): Promise<number> {
  const columns = await ask<Column>(COLUMNS, transaction);
  const tables = inOrder(columns);
  for (const table of tables) {
    const required = columns.filter((one) => one.table === table && one.required);
    const names = required.map(({ column }) => `"${column}"`).join(', ');
    const values = required.map(valueOf).join(', ');
    await database().query(
      required.length === 0
        ? `insert into "${table}" default values`
        : `insert into "${table}" (${names}) values (${values})`,
      { transaction },
    );
  }
  return tables.filter((table) => !MADE_AGAIN.includes(table)).length;
}

async function rowsIn(transaction: Transaction): Promise<number> {
  const tables = new Set((await ask<Column>(COLUMNS, transaction)).map(({ table }) => table));
  let rows = 0;
  for (const table of tables) {
    if (MADE_AGAIN.includes(table)) continue;
    const [counted] = await ask<{ count: number }>(`select count(*)::int as count from "${table}"`, transaction);
    rows += counted!.count;
  }
  return rows;
}

/** Runs `work` in a schema of its own, of which nothing stays. */
async function inSchema(work: (transaction: Transaction) => Promise<void>): Promise<void> {
  const undo = new Error('undone again');
  await expect(
    database().transaction(async (transaction) => {
      await database().query('create schema before; set local search_path to before', { transaction });
      await work(transaction);
      throw undo;
    }),
  ).rejects.toBe(undo);
}

test.each(MIGRATIONS.map(({ name }, i) => [name, i] as const))(
  'tables as they were after %s, with a row in each, become those of today without losing one',
  async (_, version) => {
    await inSchema(async (transaction) => {
      const run = (sql: string) => database().query(sql, { transaction });
      for (const { up } of MIGRATIONS.slice(0, version + 1)) await run(up);
      const filled = await fill(transaction);
      for (const { up } of MIGRATIONS.slice(version + 1)) await run(up);
      expect(filled).toBeGreaterThan(3);
      expect(await rowsIn(transaction)).toBe(filled);
    });
  },
);

test('files that waited for a person wait for the same under the words of today', async () => {
  await inSchema(async (transaction) => {
    const run = (sql: string) => database().query(sql, { transaction });
    const last = MIGRATIONS.findIndex(({ name }) => name === '019-plain-states');
    for (const { up } of MIGRATIONS.slice(0, last)) await run(up);
    await run(`insert into games (name, folder) values ('g', '/g')`);
    await run('insert into drops (game_id) values (1)');
    const states = ['waiting', 'which', 'number', 'nowhere', 'how', 'same', 'refused'];
    for (const state of states)
      await run(
        `insert into incoming_files (game_id, drop_id, name, size, kind, state) values (1, 1, 'a', 1, 'bytes', '${state}')`,
      );
    for (const { up } of MIGRATIONS.slice(last)) await run(up);
    const rows = await ask<{ state: string }>('select state from incoming_files order by id', transaction);
    expect(rows.map(({ state }) => state)).toEqual([
      'waiting',
      'ambiguous',
      'numbered',
      'unmatched',
      'needsOptions',
      'same',
      'refused',
    ]);
  });
});

test('sentences of earlier versions become notes: known ones as codes, others word for word', async () => {
  await inSchema(async (transaction) => {
    const run = (sql: string) => database().query(sql, { transaction });
    const last = MIGRATIONS.findIndex(({ name }) => name === '020-notes-as-codes');
    for (const { up } of MIGRATIONS.slice(0, last)) await run(up);
    await run(`insert into games (name, folder) values ('g', '/g')`);
    await run('insert into drops (game_id) values (1)');
    const change = (path: string, why: string, done: string) =>
      run(`insert into changes (game_id, path, kind, blob, size, file_name, why, done)
           values (1, '${path}', 'bytes', 'b', 1, 'f', '${why}', '${done}')`);
    await change('a', 'by path', '[]');
    await change('b', '', '["9 mips made", "“quoted”"]');
    await change('c', 'of somebody', '[]');
    await run(`insert into incoming_files (game_id, drop_id, name, size, kind, state, why, choices)
               values (1, 1, 'a', 1, 'bytes', 'ambiguous', null,
                       '[{"path":"x","why":"by name"},{"path":"y","why":"as z does"}]')`);
    await run(`insert into name_lists (game_id, name, kind, source, tested, matched, trouble)
               values (1, 'n', 'list', 's', 0, 0, '["line 2 is passed over"]')`);
    await run(`insert into mods (game_id, name, file, position, left_out) values (1, 'm', 'f', 1, '["It is gone."]')`);
    const results = {
      'take-out': { taken: 1, failures: [{ path: 'a', why: 'It is damaged.' }], folder: '/out' },
      unlock: { opened: ['x'], refused: [{ path: 'b', why: 'Wrong key.' }] },
      share: {
        file: 'f'.repeat(64),
        bytes: 9,
        name: 'm.zip',
        files: [{ path: 'a', as: 'whole', why: 'own', bytes: 1 }],
      },
      names: { tested: 1, trouble: ['line 2 is odd'], archives: [] },
      'bring-mod': { mod: 1, name: 'm', taken: 2, leftOut: ['It is gone.'] },
    };
    for (const [kind, result] of Object.entries({ ...results, asks: { asks: 9, name: 'm' } }))
      await run(`insert into runs (game_id, kind, title, input, result)
                 values (1, '${kind === 'asks' ? 'bring-mod' : kind}', 't', '{}', '${JSON.stringify(result)}')`);
    for (const { up } of MIGRATIONS.slice(last)) await run(up);
    const runs = await ask<{ result: unknown }>('select result from runs order by id', transaction);
    expect(runs.map(({ result }) => result)).toEqual([
      {
        ...results['take-out'],
        failures: [{ path: 'a', fault: { code: 'invalid-request', what: 'It is damaged' } }],
      },
      { ...results.unlock, refused: [{ path: 'b', fault: { code: 'invalid-request', what: 'Wrong key' } }] },
      { ...results.share, files: [{ path: 'a', as: 'whole', reason: { code: 'text', text: 'own' }, bytes: 1 }] },
      { tested: 1, notes: [{ code: 'text', text: 'line 2 is odd' }], archives: [] },
      { ...results['bring-mod'], leftOut: 1 },
      // A mod that waits for an answer still does.
      { asks: 9, name: 'm' },
    ]);
    const changes = await ask<{ matched_by: Note | null; fit_notes: Note[] }>(
      'select matched_by, fit_notes from changes order by path',
      transaction,
    );
    expect(changes).toEqual([
      { matched_by: { code: 'by-path' }, fit_notes: [] },
      {
        matched_by: null,
        fit_notes: [
          { code: 'text', text: '9 mips made' },
          { code: 'text', text: '“quoted”' },
        ],
      },
      { matched_by: { code: 'text', text: 'of somebody' }, fit_notes: [] },
    ]);
    const [incoming] = await ask<{ choices: { path: string; matchedBy: Note }[] }>(
      'select choices from incoming_files',
      transaction,
    );
    expect(incoming!.choices.map(({ path, matchedBy }) => [path, sayNote(matchedBy)])).toEqual([
      ['x', 'by name'],
      ['y', 'as z does'],
    ]);
    const [list] = await ask<{ notes: Note[] }>('select notes from name_lists', transaction);
    expect(list!.notes.map((note) => sayNote(noteSchema.parse(note)))).toEqual(['line 2 is passed over']);
    const [mod] = await ask<{ left_out: Fault[] }>('select left_out from mods', transaction);
    expect(mod!.left_out.map(sayFault)).toEqual(['It is gone.']);
  });
});
