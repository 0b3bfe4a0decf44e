/** Things of a few bytes by their SHA-256, as rows: they come and are read by the thousand, and files would cost more than they hold. */
import { QueryTypes } from 'sequelize';
import { database } from '../database';

/** Above this a file is no dearer than a row. */
export const MOST_SMALL_BYTES = 16 << 10;

/** Rows of one question. */
const TOGETHER = 5_000;

/** @param all by their SHA-256; those that are kept already stay as they are */
export async function keepSmall(all: ReadonlyMap<string, Uint8Array>): Promise<void> {
  // Two runs that keep the same things take them in the same order, and neither waits for the other for ever.
  const sorted = [...all].sort(([a], [b]) => (a < b ? -1 : 1));
  for (let from = 0; from < sorted.length; from += TOGETHER) {
    const part = sorted.slice(from, from + TOGETHER);
    await database().query(
      'insert into small_blobs (sha256, bytes) select * from unnest($1::bytea[], $2::bytea[]) ' +
        // What is kept again must not be collected before a row refers to it.
        'on conflict (sha256) do update set kept_at = now()',
      { bind: [part.map(([sha256]) => Buffer.from(sha256, 'hex')), part.map(([, bytes]) => Buffer.from(bytes))] },
    );
  }
}

/** Those of them that are kept here, by their SHA-256. */
export async function readSmall(all: Iterable<string>): Promise<Map<string, Buffer>> {
  const names = [...new Set(all)];
  const found = new Map<string, Buffer>();
  for (let from = 0; from < names.length; from += TOGETHER) {
    const rows = await database().query<{ sha256: Buffer; bytes: Buffer }>(
      'select sha256, bytes from small_blobs where sha256 = any($1::bytea[])',
      { bind: [names.slice(from, from + TOGETHER).map((name) => Buffer.from(name, 'hex'))], type: QueryTypes.SELECT },
    );
    for (const { sha256, bytes } of rows) found.set(sha256.toString('hex'), bytes);
  }
  return found;
}
