/** Entries in the database: written with COPY, made again from the archive whenever it changed. */
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { from as copyFrom } from 'pg-copy-streams';
import { throwIfStopped } from '../../core/faults';
import { kindOf } from '../../core/game';
import { uniquePaths, type Archive } from '../../core/recipe';
import { database, withConnection, type ArchiveModel } from '../database';

const ROWS_A_CHUNK = 2_000;
/** The volume of an entry whose offset counts in unlocked bytes: it has no place in a file. */
const IN_UNLOCKED_BYTES = -1;

/** Replaces the entries of an archive, in one transaction. */
export async function writeEntries(row: ArchiveModel, archive: Archive, signal: AbortSignal): Promise<void> {
  await withConnection(async (client) => {
    await client.query('begin');
    try {
      await client.query('delete from entries where archive_id = $1', [row.id]);
      const copy = client.query(
        copyFrom(
          'copy entries (archive_id, n, game_id, path, folder, name, kind, size, stored, at, method, deleted, volume) from stdin',
        ),
      );
      await pipeline(Readable.from(copyRows(row, archive, signal)), copy);
      await client.query('commit');
    } catch (error) {
      await client.query('rollback').catch(() => {});
      throw error;
    }
  });
}

function* copyRows(row: ArchiveModel, { entries, dataSpace }: Archive, signal: AbortSignal): Generator<string> {
  let chunk = '';
  const pathOf = uniquePaths(entries);
  for (let n = 0; n < entries.count; n++) {
    const path = pathOf(n);
    const slash = path.lastIndexOf('/');
    const size = entries.size(n);
    chunk += `${row.id}\t${n}\t${row.gameId}\t${escape(path)}\t${escape(path.slice(0, Math.max(0, slash)))}\t${escape(path.slice(slash + 1))}\t${kindOf(path)}\t${Number.isNaN(size) ? entries.stored(n) : size}\t${entries.stored(n)}\t${entries.at(n)}\t${escape(String(entries.method(n)))}\t${entries.isDeleted(n)}\t${dataSpace === undefined ? Math.max(0, entries.volume(n)) : IN_UNLOCKED_BYTES}\n`;
    if (n % ROWS_A_CHUNK === ROWS_A_CHUNK - 1) {
      throwIfStopped(signal);
      yield chunk;
      chunk = '';
    }
  }
  yield chunk;
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
  await database().query('delete from entries where archive_id = :archiveId', { replacements: { archiveId } });
}

/** Marks which of several entries of one path wins: the one in the archive that loads last, unless it says it is gone. */
export async function settleWinners(gameId: number): Promise<void> {
  await database().query(
    `update entries e set wins = w.wins
     from (
       select e2.archive_id, e2.n,
              row_number() over (partition by e2.path order by a.position desc, e2.n desc) = 1 and not e2.deleted as wins
       from entries e2 join archives a on a.id = e2.archive_id
       where e2.game_id = :gameId
     ) w
     where e.archive_id = w.archive_id and e.n = w.n and e.wins is distinct from w.wins`,
    { replacements: { gameId } },
  );
}
