import { collect, type ByteSource } from '../bytes';
import { FaultError, FormatError, type Fault } from '../faults';
import { scopeOf } from './formula/value';
import type { Recipe } from './model';
import { checkFormulas, type FormulaCheck } from './proof/formula-check';
import { contentFaults } from './proof/content-checks';
import { readingFaults } from './proof/reading-checks';
import { isListing, missingSets, missingVolume, type OpenVolume } from './read/volumes';
import { readEntry } from './read/entry-bytes';
import { openTables } from './read/archive';
import type { OpenedArchive, OpenOptions } from './read/opened-archive';
import { pointerComplaints } from './read/pointer-complaints';

export interface Archive extends OpenedArchive {
  /** Formulas that disagree and rows that point nowhere: the archive opens all the same. */
  readonly complaints: readonly Fault[];
  /** What comparing fields with their formulas came to. */
  readonly formulas: FormulaCheck;
}

/** What the archive says about the build of the game it comes from; nothing where it says none. */
export function buildText({ recipe, facts }: OpenedArchive): string | undefined {
  const build = recipe.build?.evaluate(scopeOf(facts));
  return typeof build === 'string' && build !== '' ? build : undefined;
}

/** The volumes that are files: those of a folder without its listing, which is behind them. */
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
  const opened = await openNamed(recipe, files, options);
  const check = await checkFormulas(opened, { deep: false, signal: options.signal });
  const missing = missingSets(opened.recipe, opened.volumes).map(
    (set) => missingVolume(opened.recipe, set, opened.outer.name).fault,
  );
  const complaints = [...missing, ...check.faults, ...pointerComplaints(opened)];
  if (recipe.strict) {
    const [first] = [
      ...complaints,
      ...readingFaults(opened, options.signal),
      ...(await contentFaults(opened, options.signal)),
    ];
    if (first !== undefined) throw new FormatError(first);
  }
  return { ...opened, complaints, formulas: check };
}

/** With the names that the archive itself lists, where it does. */
async function openNamed(
  recipe: Recipe,
  files: ByteSource | readonly ByteSource[],
  options: OpenOptions,
): Promise<OpenedArchive> {
  const { names: rule, made } = recipe.entries;
  if (rule === undefined && made.length === 0) return openTables(recipe, files, options);
  const known = [...made.map(({ path }) => path), ...(rule === undefined ? [] : [rule.path]), ...(options.names ?? [])];
  const opened = await openTables(recipe, files, { ...options, names: known });
  const listed = rule === undefined ? [] : await listedNames(opened, rule, options.signal);
  // Bytes of entries are named by their hashes: the tables are read again, and with them all that follows from paths.
  return listed.length === 0 ? opened : openTables(recipe, files, { ...options, names: [...known, ...listed] });
}

/** @returns none where the list is not there or cannot be read; entries then stay without their names */
async function listedNames(
  archive: OpenedArchive,
  { path, ends }: NonNullable<Recipe['entries']['names']>,
  signal: AbortSignal | undefined,
): Promise<string[]> {
  const { entries } = archive;
  for (let entry = 0; entry < entries.count; entry++) {
    if (entries.isDeleted(entry) || entries.path(entry) !== path || entries.damage(entry) !== undefined) continue;
    try {
      const bytes = await collect(readEntry(archive, entry, signal === undefined ? {} : { signal }));
      const text = new TextDecoder('utf-8').decode(bytes);
      return text
        .split(ends)
        .map((name) => (ends === '\n' ? name.replace(/\r$/u, '') : name))
        .filter((name) => name !== '');
    } catch (error) {
      if (!(error instanceof FaultError) || error.fault.code === 'stopped') throw error;
      return [];
    }
  }
  return [];
}
