import { existsSync } from 'node:fs';
import { readFile, realpath } from 'node:fs/promises';
import { basename, dirname, join, relative } from 'node:path';
import { fileScratch, looseFile, openFile, type FileSource } from '../core/bytes/node';
import { keyBytes } from '../core/codecs';
import { FaultError, faultOf } from '../core/faults';
import { parseNameList } from '../core/names';
import { DEFAULT_LIMITS, openArchive, recogniseFile, type Archive, type Limits, type Recipe } from '../core/recipe';
import { companionsOf, loadRecipe, loadRecipes, loadRecipesFor, type RecipeTitle } from '../core/recipe/node';

export interface ArchiveOptions {
  readonly recipe?: string;
  readonly key: readonly string[];
  readonly limit: readonly string[];
  readonly names: readonly string[];
}

const SHIPPED = join(__dirname, '..', '..', 'recipes');

/**
 * Opens the archive that the arguments name and hands it to `work`; the files are closed afterwards. Volumes that are
 * not named are looked for next to the main file.
 */
export async function withOpened<T>(
  files: readonly string[],
  options: ArchiveOptions,
  work: (archive: Archive, sources: readonly FileSource[]) => Promise<T>,
): Promise<T> {
  const [main, ...more] = files;
  const sources = [await openFile(main!)];
  const scratch = fileScratch();
  try {
    const recipe = await chooseRecipe(sources[0]!, options.recipe);
    const open = recipe.presents === 'folder' ? looseFile : openFile;
    for (const path of more.length > 0 ? more : await companionsOf(recipe, main!))
      sources.push(await open(path, nameBelow(main!, path)));
    const archive = await openArchive(recipe, sources, {
      keys: parseKeys(recipe, options.key),
      limits: parseLimits(options.limit),
      names: await readNames(options.names),
      scratch,
    });
    return await work(archive, sources);
  } finally {
    await scratch.release();
    for (const source of sources) await source.close();
  }
}

/**
 * Recipes that come with Zero Latch and present what an entry holds, such as a picture: those of open formats, and those of the
 * engines that the archives are of.
 */
export function formRecipes(archives: readonly Archive[]): Promise<readonly Recipe[]> {
  const collections = archives.map(({ recipe }) => recipe.collection);
  return loadRecipes(
    SHIPPED,
    (title) => !isOfArchive(title) && (title.collection === undefined || collections.includes(title.collection)),
  );
}

const isOfArchive = ({ presents }: RecipeTitle): boolean => presents === 'archive' || presents === 'folder';

async function readNames(files: readonly string[]): Promise<string[]> {
  const names: string[] = [];
  for (const file of files) {
    const text = await readFile(file, 'utf8').catch((error: unknown) => {
      throw new FaultError(faultOf(error, file), { cause: error });
    });
    for (const name of parseNameList(text)) names.push(name);
  }
  return names;
}

async function chooseRecipe(source: FileSource, wanted: string | undefined): Promise<Recipe> {
  if (wanted !== undefined && existsSync(wanted)) return loadRecipe(wanted);
  if (wanted !== undefined) {
    const ids: string[] = [];
    const [named] = await loadRecipes(SHIPPED, ({ id }) => ids.push(id) > 0 && id === wanted);
    if (named !== undefined) return named;
    throw new FaultError({
      code: 'invalid-request',
      what: `there is no recipe ${wanted}`,
      expected: `a file, or one of ${ids.join(', ')}`,
    });
  }
  const { fits } = await recogniseFile(await loadRecipesFor(source, SHIPPED), source);
  const [only] = fits;
  if (fits.length === 1 && only !== undefined) return only.recipe;
  const head = await source.read(0, Math.min(8, source.size));
  throw new FaultError({
    code: 'no-recipe',
    file: source.name,
    offset: 0,
    ...(fits.length === 0
      ? {
          found: Buffer.from(head)
            .toString('hex')
            .toUpperCase()
            .replace(/(..)(?=.)/g, '$1 '),
          hint: 'Name a recipe with --recipe FILE.',
        }
      : {
          what: `several recipes fit: ${fits.map(({ recipe, reason }) => `${recipe.id} (${reason})`).join(', ')}`,
          hint: 'Choose one with --recipe ID.',
        }),
  });
}

function parseKeys(recipe: Recipe, given: readonly string[]): Map<string, Uint8Array> {
  return new Map(
    given.map((text) => {
      const [slot, value] = split(text, '--key');
      const kind = recipe.needs.get(slot);
      if (kind === undefined) {
        const known = [...recipe.needs.keys()].join(', ') || 'none';
        throw new FaultError({
          code: 'invalid-request',
          what: `the recipe ${recipe.id} has no key slot ${slot}`,
          expected: known,
        });
      }
      return [slot, keyBytes(value, kind)];
    }),
  );
}

function parseLimits(given: readonly string[]): Partial<Limits> {
  return Object.fromEntries(
    given.map((text) => {
      const [name, value] = split(text, '--limit');
      const number = Number(value);
      if (!Object.hasOwn(DEFAULT_LIMITS, name) || !Number.isSafeInteger(number) || number < 0) {
        throw new FaultError({
          code: 'invalid-request',
          what: `--limit ${text} is not a limit`,
          expected: Object.keys(DEFAULT_LIMITS).join(', '),
        });
      }
      return [name, number];
    }),
  );
}

/** How a file is called next to the main one: by its path from there where it lies below. */
function nameBelow(main: string, path: string): string {
  const name = relative(dirname(main), path).replaceAll('\\', '/');
  return name.startsWith('..') ? basename(path) : name;
}

/** `NAME=VALUE` in two. */
export function split(text: string, option: string): [string, string] {
  const at = text.indexOf('=');
  if (at > 0) return [text.slice(0, at), text.slice(at + 1)];
  throw new FaultError({
    code: 'invalid-request',
    what: `${option} wants NAME=VALUE`,
    found: option === '--key' ? 'no =' : text,
  });
}

/** @throws FaultError when a file of the archive lies in that folder: it could be written over while it is read */
export async function refuseOwnFolder(to: string, sources: readonly FileSource[]): Promise<void> {
  const target = await realpath(to);
  const folders = await Promise.all(sources.map(({ path }) => realpath(dirname(path))));
  if (folders.includes(target))
    throw new FaultError({
      code: 'invalid-request',
      what: 'the archive lies in that folder, and could be written over',
      file: to,
      hint: 'Choose another folder with --to.',
    });
}

/** Prints what is odd about an archive that opened all the same. */
export function warn(archive: Archive, say: (fault: Archive['complaints'][number]) => string): void {
  for (const complaint of archive.complaints) process.stderr.write(`Note: ${say(complaint)}\n`);
}
