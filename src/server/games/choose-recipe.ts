import { FaultError } from '../../core/faults';
import { startRun } from '../runs';
import type { RunAnswer } from '../shapes';
import { requireArchive } from './archive-access';

/**
 * Keeps which of several fitting recipes a file is read with, and scans it again.
 *
 * @throws FaultError `conflict` when the recipe does not fit the file
 */
export async function chooseRecipe(gameId: number, archiveId: number, recipe: string): Promise<RunAnswer> {
  const archive = await requireArchive(gameId, archiveId);
  if (!archive.fits.some((fit) => fit.recipe === recipe))
    throw new FaultError({
      code: 'conflict',
      file: archive.path,
      what: `the recipe ${recipe} does not fit this file`,
      expected: archive.fits.map((fit) => fit.recipe).join(', '),
      hint: 'Scan the folder again if its files have changed.',
    });
  // Another reading of the same bytes: the next scan has to look at it as if it were new.
  await archive.update({ chosen: recipe, modified: 0 });
  return startRun('scan', { title: `Reading ${archive.path} as ${recipe}`, gameId, input: {} });
}
