/** Looking inside files no recipe knows: what is found can be viewed and taken out. */
import { carve, FOUND_RECIPE, foundRecipe, foundTable, type Found } from '../../../core/carve';
import { bufferSource } from '../../../core/bytes';
import { openFile } from '../../../core/bytes/node';
import { faultOf, sayFault, throwIfStopped } from '../../../core/faults';
import { randomness } from '../../../core/hints';
import { openArchive } from '../../../core/recipe';
import { ArchiveModel, type FoundInside } from '../../database';
import type { RunContext } from '../../runs/run-context';
import { keepBlob } from '../../storage';
import { archiveFile } from '../archive-access';
import { bandsOf } from '../bands';
import { settleWinners, writeEntries } from '../entry-index';

/** Things of one file that are kept; the rest of it is then not looked through, and the log says so. */
const MOST_FOUND = 20_000;
/** Larger files are looked into when a person asks for it. */
const MAX_UNASKED_BYTES = 64 << 20;
const RANDOMNESS_CELLS = 160;

/** Unknown files that nobody has looked into yet, and that do not take long. */
export async function unlooked(gameId: number): Promise<ArchiveModel[]> {
  const rows = await ArchiveModel.findAll({
    where: { gameId, state: 'unknown', parentId: null },
    order: [['size', 'ASC']],
  });
  return rows.filter((row) => (row.found ?? null) === null && row.size > 0 && row.size <= MAX_UNASKED_BYTES);
}

export async function findInsideRun({ gameId, input, signal, progress, log }: RunContext): Promise<object> {
  const asked = input['archive'] as number | undefined;
  const rows =
    asked === undefined ? await unlooked(gameId) : await ArchiveModel.findAll({ where: { gameId, id: asked } });
  const total = rows.reduce((sum, row) => sum + row.size, 0);
  let done = 0;
  let found = 0;
  for (const row of rows) {
    throwIfStopped(signal);
    try {
      const before = done;
      const inside = await lookInside(row, signal, (bytes) => progress(before + bytes, total, 'bytes'));
      if (inside >= MOST_FOUND)
        log(`${row.path}: only the first ${MOST_FOUND.toLocaleString('en')} things in it are kept`);
      found += inside;
    } catch (error) {
      if (signal.aborted) throw error;
      log(sayFault(faultOf(error, row.path)));
    }
    progress((done += row.size), total, 'bytes');
  }
  if (found > 0) await settleWinners(gameId);
  return { files: rows.length, found };
}

async function lookInside(row: ArchiveModel, signal: AbortSignal, progress: (bytes: number) => void): Promise<number> {
  const source = await openFile(await archiveFile(row), row.path);
  try {
    const found = await carve(source, { signal, progress, most: MOST_FOUND });
    const facts: FoundInside = {
      kinds: countKinds(found),
      randomness: (await randomness(source, RANDOMNESS_CELLS)).map((bits) => Math.round(bits * 100) / 100),
      table: found.length === 0 ? null : (await keepBlob(once(foundTable(found)))).sha256,
    };
    if (found.length === 0) {
      await row.update({ found: facts });
      return 0;
    }
    const table = bufferSource(foundTable(found), row.path);
    const archive = await openArchive(foundRecipe(), [table, source], { signal });
    // The bands of the file alone: the table is ours.
    const bands = (await bandsOf(archive, signal))
      .map((band) => ({ ...band, at: band.at - table.size }))
      .filter(({ at }) => at >= 0);
    await row.update({ found: facts, recipe: FOUND_RECIPE, bands });
    const { entries, methods } = await writeEntries(row, archive, signal);
    await row.update({ entryCount: entries, methods });
    return entries;
  } finally {
    await source.close();
  }
}

function countKinds(found: readonly Found[]): FoundInside['kinds'] {
  const kinds: Partial<Record<Found['kind'], number>> = {};
  for (const { kind } of found) kinds[kind] = (kinds[kind] ?? 0) + 1;
  return kinds;
}

async function* once(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}
