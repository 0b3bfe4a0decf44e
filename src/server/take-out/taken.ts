/** What was taken out before, so that only what changed is taken again. */
import { lstat } from 'node:fs/promises';
import { QueryTypes } from 'sequelize';
import { database } from '../database';

interface Row {
  readonly target: string;
  readonly mark: string;
  readonly size: number;
  readonly modified: number;
}

const ROWS_A_STATEMENT = 500;

export class Taken {
  private fresh: Row[] = [];
  /** Files of this run. */
  private readonly mine = new Map<string, Row>();

  private constructor(
    private readonly gameId: number,
    private readonly before: ReadonlyMap<string, Row>,
  ) {}

  /** @param folder what lies below it is remembered */
  static async read(gameId: number, folder: string): Promise<Taken> {
    const rows = await database().query<Row>(
      `select target, mark, size::float8 as size, modified from taken
       where game_id = $1 and starts_with(target, $2)`,
      { bind: [gameId, `${folder}/`], type: QueryTypes.SELECT },
    );
    return new Taken(gameId, new Map(rows.map((row) => [row.target, row])));
  }

  /** True when the file there is the one that was written then, of the same content, and it is unmodified since. */
  async isThere(target: string, mark: string): Promise<boolean> {
    const row = this.mine.get(target) ?? this.before.get(target);
    return row?.mark === mark && (await this.standing(target)) === 'ours';
  }

  /** Whether a file is there, and whether it is what a run wrote, unmodified since. */
  async standing(target: string): Promise<'nothing' | 'ours' | 'strange'> {
    const there = await lstat(target).catch(() => undefined);
    if (there === undefined) return 'nothing';
    const row = this.mine.get(target) ?? this.before.get(target);
    const isOurs = there.isFile() && there.size === row?.size && there.mtimeMs === row.modified;
    return isOurs ? 'ours' : 'strange';
  }

  async note(target: string, mark: string): Promise<void> {
    const { size, mtimeMs: modified } = await lstat(target);
    const row = { target, mark, size, modified };
    this.mine.set(target, row);
    this.fresh.push(row);
    if (this.fresh.length >= ROWS_A_STATEMENT) await this.keep();
  }

  async keep(): Promise<void> {
    // Of a file that was written twice the last holds: one statement must not meet a row twice.
    const rows = [...new Map(this.fresh.map((row) => [row.target, row])).values()];
    this.fresh = [];
    if (rows.length === 0) return;
    await database().query(
      `insert into taken (game_id, target, mark, size, modified)
       select $1, * from unnest($2::text[], $3::text[], $4::bigint[], $5::float8[])
       on conflict (game_id, target) do update set mark = excluded.mark, size = excluded.size, modified = excluded.modified`,
      {
        bind: [
          this.gameId,
          rows.map(({ target }) => target),
          rows.map(({ mark }) => mark),
          rows.map(({ size }) => size),
          rows.map(({ modified }) => modified),
        ],
      },
    );
  }
}
