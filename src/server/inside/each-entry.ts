/** Entries of a list read one after the other, archive by archive, for runs that look through their content. */
import { faultOf, sayFault, throwIfStopped } from '../../core/faults';
import type { CatalogueQuery } from '../../core/catalogue';
import type { Archive } from '../../core/recipe';
import { askCatalogue } from '../catalogue';
import { pathInGameOf, requireArchive, withArchive } from '../games';
import type { RunSetting } from '../runs/run-context';

type Range = readonly [from: number, to: number];
const WHOLE: readonly Range[] = [[0, Number.MAX_SAFE_INTEGER]];

/** The number of an entry that represents its file as a whole. */
export const FILE_ITSELF = -1;

export interface EntryLookedAt {
  readonly archive: Archive;
  readonly archiveId: number;
  readonly n: number;
  /** Its path in the game; asked for only where it is needed. */
  path(): Promise<string>;
}

/**
 * What cannot be read is logged and counted, and the rest is still read; an archive that cannot be opened
 * counts with all its entries.
 *
 * @param look says whether the next one is to be looked at as well
 * @returns how many entries were looked at, and how many could not be
 * @throws CancelledError when the run is stopped
 */
export async function eachEntry(
  { gameId, signal, progress, log }: RunSetting,
  { query, ranges = WHOLE }: { query: CatalogueQuery; ranges?: readonly Range[] | undefined },
  look: (entry: EntryLookedAt) => Promise<boolean>,
): Promise<{ entries: number; failures: number }> {
  const { archive: archives, n: numbers } = await askCatalogue(gameId, 'numbers', { query, ranges });
  const total = archives.length;
  const result = { entries: 0, failures: 0 };
  let goesOn = true;
  const lookThrough = async (archive: Archive, from: number, to: number) => {
    for (let i = from; i < to && goesOn; i++) {
      throwIfStopped(signal);
      progress(i, total, 'entries');
      const n = numbers[i]!;
      if (n >= archive.entries.count || archive.entries.isDeleted(n)) continue;
      result.entries++;
      const path = () => pathInGameOf(archives[i]!, n);
      try {
        goesOn = await look({ archive, archiveId: archives[i]!, n, path });
      } catch (error) {
        result.failures++;
        log(sayFault(faultOf(error, await path())));
      }
    }
  };
  for (let from = 0; from < total && goesOn;) {
    let to = from;
    while (to < total && archives[to] === archives[from]) to++;
    try {
      await withArchive(archives[from]!, (archive) => lookThrough(archive, from, to));
    } catch (error) {
      throwIfStopped(signal);
      result.failures += to - from;
      const name = await requireArchive(gameId, archives[from]!).then(
        (row) => row.path,
        () => 'an archive that is gone',
      );
      log(sayFault(faultOf(error, name)));
    }
    from = to;
  }
  progress(total, total, 'entries');
  return result;
}
