/** Looking inside files no recipe knows: what is found can be viewed and taken out. */
import { carve, listFound, type Found } from '../../../core/carve';
import { openFile } from '../../../core/bytes/node';
import { faultOf, sayFault, throwIfStopped } from '../../../core/faults';
import { randomness } from '../../../core/hints';
import { ArchiveModel, type FoundInside } from '../../database';
import { backgroundSource } from '../../runs';
import type { RunContext } from '../../runs/run-context';
import type { RunResult } from '../../shapes';
import { archiveFile } from '../archive-access';
import { settleWinners } from '../entry-index';
import { indexFound } from '../found-index';

/** Things of one file that are kept; the rest of it is then not looked through, and the log says so. */
const MOST_FOUND = 20_000;
/** Larger files are looked into when a person asks for it. */
const MAX_UNASKED_BYTES = 64 << 20;
const RANDOMNESS_CELLS = 160;

/** Unknown files that have not been searched yet, and that do not take long. */
export async function notYetCarved(gameId: number): Promise<ArchiveModel[]> {
  const rows = await ArchiveModel.findAll({
    where: { gameId, state: 'unknown', parentId: null },
    order: [['size', 'ASC']],
  });
  return rows.filter(
    (row) =>
      ((row.found ?? null) === null || row.found?.notYetCarved === true) &&
      row.size > 0 &&
      row.size <= MAX_UNASKED_BYTES,
  );
}

export async function findInsideRun({
  gameId,
  input,
  signal,
  progress,
  log,
}: RunContext<'find-inside'>): Promise<RunResult<'find-inside'>> {
  const asked = input.archive;
  const rows =
    asked === undefined ? await notYetCarved(gameId) : await ArchiveModel.findAll({ where: { gameId, id: asked } });
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
    const found = await carve(backgroundSource(source), { signal, progress, most: MOST_FOUND });
    const texts = row.found?.texts ?? [];
    const facts = {
      kinds: countKinds(found),
      randomness: (await randomness(source, RANDOMNESS_CELLS)).map((bits) => Math.round(bits * 100) / 100),
      ...(texts.length === 0 ? {} : { texts }),
    };
    return await indexFound(row, source, { facts, listed: [...listFound(found), ...texts], signal });
  } finally {
    await source.close();
  }
}

function countKinds(found: readonly Found[]): FoundInside['kinds'] {
  const kinds: Partial<Record<Found['kind'], number>> = {};
  for (const { kind } of found) kinds[kind] = (kinds[kind] ?? 0) + 1;
  return kinds;
}
