/** An entry as it is in its archive. */
import { readChunks } from '../../core/bytes';
import { FaultError } from '../../core/faults';
import { readEntry, storedSource, type Archive } from '../../core/recipe';
import { ArchiveModel } from '../database';
import { isEntryAt } from '../games';
import type { TakeOutOrder } from '../shapes';

export const plainBytes = (
  archive: Archive,
  n: number,
  form: TakeOutOrder['form'],
  signal: AbortSignal,
): AsyncIterable<Uint8Array> =>
  form === 'stored'
    ? readChunks(storedSource(archive, n), 0, archive.entries.stored(n), { signal })
    : readEntry(archive, n, { signal });

/** @throws FaultError `no-such-entry` when the archive is another than was scanned */
export async function checkStillThere(
  archive: Archive,
  entry: { archive: number; n: number; path: string },
): Promise<void> {
  const row = await ArchiveModel.findByPk(entry.archive);
  if (row !== null && (await isEntryAt(row, archive, entry.n, entry.path))) return;
  throw new FaultError({
    code: 'no-such-entry',
    entry: entry.path,
    file: archive.source.name,
    what: 'the archive has changed since the last scan',
    hint: 'Scan the folder again.',
  });
}
