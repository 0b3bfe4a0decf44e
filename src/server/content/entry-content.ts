import { createHash } from 'node:crypto';
import { mkdir, readFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { QueryTypes } from 'sequelize';
import { collect } from '../../core/bytes';
import { createFile } from '../../core/bytes/node';
import { FaultError } from '../../core/faults';
import { mimeOf } from '../../core/game';
import { entrySize, readEntry, type Archive } from '../../core/recipe';
import { database } from '../database';
import { env } from '../env';
import { archiveRow, withArchive } from '../games';
import { formsStamp } from '../recipes';

/** Enough for every signature. */
const HEAD_BYTES = 512;

/** Entries up to this many bytes are previewed. */
export const MAX_PREVIEW_BYTES = 64 << 20;

/** The first bytes of an entry; no more of it is unpacked than that takes. */
export async function entryHead(archive: Archive, n: number): Promise<Uint8Array> {
  for await (const chunk of readEntry(archive, n, { verify: false })) return chunk.subarray(0, HEAD_BYTES);
  return new Uint8Array(0);
}

/** The plain bytes of an entry with its checksum verified. */
export async function entryBytes(
  archiveId: number,
  n: number,
): Promise<{ bytes: Uint8Array; mime: string; path: string }> {
  return withArchive(archiveId, async (archive) => {
    if (n >= archive.entries.count)
      throw new FaultError({
        code: 'no-such-entry',
        what: 'there is no such entry any more',
        hint: 'Scan the folder again.',
      });
    const path = archive.entries.path(n);
    const size = entrySize(archive, n);
    if (size > MAX_PREVIEW_BYTES) {
      throw new FaultError({
        code: 'limit-reached',
        what: 'the entry is too large to look at here',
        entry: path,
        found: `${size.toLocaleString('en')} bytes`,
        limit: `bytes of a preview, ${MAX_PREVIEW_BYTES.toLocaleString('en')}`,
        hint: 'Take it out instead.',
      });
    }
    const bytes = await collect(readEntry(archive, n));
    return { bytes, path, mime: mimeOf(path, bytes.subarray(0, HEAD_BYTES)) };
  });
}

/** The entry that wins for a path. */
export async function findWinner(gameId: number, path: string): Promise<{ archive: number; n: number }> {
  const [rows] = (await database().query(
    'select archive_id as archive, n from entries where game_id = :gameId and path = :path and wins',
    { replacements: { gameId, path } },
  )) as [{ archive: number; n: number }[], unknown];
  const [row] = rows;
  if (row !== undefined) return row;
  throw new FaultError({ code: 'no-such-entry', what: `there is no entry ${path}`, hint: 'Scan the folder again.' });
}

/** The bytes of the entry that wins for a path; undefined when there is none. */
export async function winnerBytes(gameId: number, path: string): Promise<Uint8Array | undefined> {
  const winner = await findWinner(gameId, path).catch(() => undefined);
  return winner === undefined ? undefined : (await entryBytes(winner.archive, winner.n)).bytes;
}

/** The same for many paths at once; those that no entry has are left out. */
export async function findWinners(
  gameId: number,
  paths: readonly string[],
): Promise<ReadonlyMap<string, { archive: number; n: number }>> {
  const rows = await database().query<{ path: string; archive: number; n: number }>(
    'select path, archive_id as archive, n from entries where game_id = $1 and path = any($2::text[]) and wins',
    { bind: [gameId, [...paths]], type: QueryTypes.SELECT },
  );
  return new Map(rows.map(({ path, archive, n }) => [path, { archive, n }]));
}

/** Something small made of an entry, kept under `thumbnails/` by what the archive, the entry and the recipes of forms are. */
export async function kept(
  archiveId: number,
  n: number,
  ending: string,
  make: () => Promise<Uint8Array>,
): Promise<Uint8Array> {
  const row = await archiveRow(archiveId);
  const forms = row === null ? '' : await formsStamp(row.gameId);
  return withArchive(archiveId, async ({ source, entries }) => {
    // Of an archive inside another the time is that of the file around it.
    const facts = `${row?.path}:${source.name}:${source.size}:${entries.at(n)}:${entries.stored(n)}:${row?.modified ?? 0}:${forms}`;
    const path = join(env().home, 'thumbnails', `${createHash('sha256').update(facts).digest('hex')}.${ending}`);
    const known = await readFile(path).catch(() => undefined);
    if (known !== undefined) return known;
    const made = await make();
    await mkdir(dirname(path), { recursive: true });
    // What is lost with the power is made again.
    const sink = await createFile(path, { durable: false });
    await sink.write(made);
    await sink.close();
    return made;
  });
}

export function isWave(bytes: Uint8Array): boolean {
  return mimeOf('', bytes.subarray(0, HEAD_BYTES)) === 'audio/wav';
}
