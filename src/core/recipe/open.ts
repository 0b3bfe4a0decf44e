import type { ByteSource } from '../bytes';
import { FormatError, type Fault } from '../faults';
import { scopeOf } from './formula/value';
import type { Recipe } from './model';
import { checkFormulas } from './proof/formula-check';
import { readingFaults } from './proof/reading-checks';
import { isListing, missingSets, missingVolume, type OpenVolume } from './read/volumes';
import { openTables, pointerComplaints, type OpenedArchive, type OpenOptions } from './read/archive';

export interface Archive extends OpenedArchive {
  /** Formulas that disagree and rows that point nowhere: the archive opens all the same. */
  readonly complaints: readonly Fault[];
}

/** What the archive says about the build of the game it comes from; nothing where it says none. */
export function buildText({ recipe, facts }: OpenedArchive): string | undefined {
  const told = recipe.build?.evaluate(scopeOf(facts));
  return typeof told === 'string' && told !== '' ? told : undefined;
}

/** The volumes that are files: those of a folder without its listing, which stands behind them. */
export function archiveFiles({ recipe, volumes }: OpenedArchive): readonly OpenVolume[] {
  return volumes.filter(({ set }) => !isListing(recipe, set));
}

/**
 * Opens an archive, and says what about it is odd.
 *
 * @param files the main volume first; a single source is an archive of one volume
 * @throws FormatError for what the file has wrong, with region, field, offset, expected and found; of a strict recipe, the
 *   first complaint
 * @throws FaultError `key-missing` or `key-wrong`, naming the slot
 */
export async function openArchive(
  recipe: Recipe,
  files: ByteSource | readonly ByteSource[],
  options: OpenOptions = {},
): Promise<Archive> {
  const opened = await openTables(recipe, files, options);
  const check = await checkFormulas(opened, { deep: false, signal: options.signal });
  const missing = missingSets(opened.recipe, opened.volumes).map(
    (set) => missingVolume(opened.recipe, set, opened.outer.name).fault,
  );
  const complaints = [...missing, ...check.faults, ...pointerComplaints(opened)];
  if (recipe.strict) {
    const [first] = [...complaints, ...readingFaults(opened, options.signal)];
    if (first !== undefined) throw new FormatError(first);
  }
  return { ...opened, complaints };
}
