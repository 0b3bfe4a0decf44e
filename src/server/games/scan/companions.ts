/** Which files belong to which archive: an index with its data files. */
import { basename, dirname, join } from 'node:path';
import { throwIfStopped } from '../../../core/faults';
import { openFile } from '../../../core/bytes/node';
import { recogniseFile, volumeNumber, type Recipe } from '../../../core/recipe';
import type { ArchiveModel } from '../../database';
import type { FoundFile } from './walk';

interface Search {
  readonly folder: string;
  readonly files: readonly FoundFile[];
  readonly known: ReadonlyMap<string, ArchiveModel>;
  readonly recipes: readonly Recipe[];
  /** What recipes knew at the last scan still holds. */
  readonly sameRecipes: boolean;
  readonly signal: AbortSignal;
}

/** Files that are volumes of an archive whose main file is another, by the path of that. */
export async function companionFiles(search: Search): Promise<ReadonlyMap<string, FoundFile[]>> {
  const found = new Map<string, FoundFile[]>();
  const many = search.recipes.filter(({ volumes }) => volumes.length > 1);
  if (many.length === 0) return found;
  const byFolder = new Map<string, FoundFile[]>();
  for (const file of search.files) {
    const folder = dirname(file.path);
    const list = byFolder.get(folder);
    if (list === undefined) byFolder.set(folder, [file]);
    else list.push(file);
  }
  for (const file of search.files) {
    throwIfStopped(search.signal);
    const recipes = await recipesOf(file, many, search);
    const sets = recipes.flatMap(({ volumes }) => volumes.slice(1));
    if (sets.length === 0) continue;
    if (sets.some(({ anyFile }) => anyFile)) {
      const folder = dirname(file.path) === '.' ? '' : `${dirname(file.path)}/`;
      found.set(
        file.path,
        search.files.filter((other) => other !== file && other.path.startsWith(folder)),
      );
      continue;
    }
    const beside = byFolder
      .get(dirname(file.path))!
      .filter(
        (other) =>
          other !== file && sets.some((set) => volumeNumber(set, basename(file.path), other.path) !== undefined),
      );
    if (beside.length > 0) found.set(file.path, beside);
  }
  return found;
}

async function recipesOf(file: FoundFile, many: readonly Recipe[], search: Search): Promise<Recipe[]> {
  const row = search.known.get(file.path);
  const same = row !== undefined && row.size === file.size && row.modified === file.modified && search.sameRecipes;
  if (!same) return mainOf(many, join(search.folder, file.path), row?.chosen);
  return many.filter(({ id }) => id === row.recipe || row.fits.some((fit) => fit.recipe === id));
}

/** The recipes a file may be the main volume of; one, when a person has chosen. */
async function mainOf(recipes: readonly Recipe[], path: string, chosen?: string | null): Promise<Recipe[]> {
  const source = await openFile(path).catch(() => undefined);
  if (source === undefined) return [];
  try {
    const fits = (await recogniseFile(recipes, source)).fits.map(({ recipe }) => recipe);
    const own = fits.filter(({ id }) => id === chosen);
    return own.length > 0 ? own : fits;
  } finally {
    await source.close();
  }
}
