/** Recipes kept as files, and the volumes next to a main file: the part of recipe/ that touches the file system. */
import { readdir, readFile } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import type { ByteSource } from '../bytes';
import type { FileSource } from '../bytes/node';
import { faultOf, FaultError, FormatError } from '../faults';
import { compileRecipe } from './compile/compile';
import type { Recipe } from './model';
import { volumeNumber } from './read/volumes';
import { thatMayFit } from './recognise';
import { keptInPlace, type PlannedVolume } from './write/rendering/planned';

/** @throws FormatError `recipe-invalid` naming the file, FaultError when it cannot be read */
export async function loadRecipe(path: string): Promise<Recipe> {
  return compileFile(path, await textOf(path));
}

async function textOf(path: string): Promise<string> {
  try {
    return await readFile(path, 'utf8');
  } catch (error) {
    throw new FaultError(faultOf(error, basename(path)), { cause: error });
  }
}

function compileFile(path: string, text: string): Recipe {
  try {
    return compileRecipe(text);
  } catch (error) {
    throw error instanceof FormatError ? error.with({ file: basename(path) }) : error;
  }
}

/** What a recipe says of itself, read without compiling it. */
export interface RecipeTitle {
  readonly id: string;
  readonly presents: string;
  /** The game or engine it is of. */
  readonly collection: string | undefined;
}

interface RecipeFile {
  readonly path: string;
  readonly text: string;
}

/** The recipes of a folder, by the names of their files. */
async function recipeFiles(folder: string, isWanted: (title: RecipeTitle) => boolean): Promise<RecipeFile[]> {
  const names = (await readdir(folder)).filter((file) => /\.ya?ml$/.test(file)).sort();
  const files = await Promise.all(
    names.map(async (name) => ({ path: join(folder, name), text: await textOf(join(folder, name)) })),
  );
  return files.filter(({ text }) =>
    isWanted({
      id: lineOf(text, 'recipe') ?? '',
      presents: lineOf(text, 'presents') ?? 'archive',
      collection: lineOf(text, 'collection'),
    }),
  );
}

/** @param isWanted others are not compiled, which takes 20 ms each */
export async function loadRecipes(
  folder: string,
  isWanted: (title: RecipeTitle) => boolean = () => true,
): Promise<Recipe[]> {
  return (await recipeFiles(folder, isWanted)).map(({ path, text }) => compileFile(path, text));
}

/** The recipes of archives that may fit a file, by the bytes that they look for. */
export async function loadRecipesFor(source: ByteSource, folder: string): Promise<Recipe[]> {
  const files = await recipeFiles(folder, ({ presents }) => presents === 'archive' || presents === 'folder');
  const texts = files.map(({ text }) => text);
  const may = new Set(await thatMayFit(texts, source));
  return files.filter(({ text }) => may.has(text)).map(({ path, text }) => compileFile(path, text));
}

const lineOf = (text: string, key: string): string | undefined =>
  new RegExp(`^${key}:[ \\t]*([\\w-]+)`, 'm').exec(text)?.[1];

/** More files than this are no folder of loose files. */
const MAX_FILES = 100_000;

/** Every file of a folder and below it but one, in the order of their paths; links are not followed. */
async function filesBelow(folder: string, but: string): Promise<string[]> {
  const names = await readdir(folder, { withFileTypes: true, recursive: true }).catch(() => []);
  const files = names.filter((name) => name.isFile()).map((name) => join(name.parentPath, name.name));
  if (files.length > MAX_FILES)
    throw new FormatError({
      code: 'limit-reached',
      file: basename(folder),
      what: 'the folder has too many files',
      limit: `files of a folder, ${MAX_FILES.toLocaleString('en')}`,
    });
  return files.filter((file) => file !== but).sort();
}

/** The files next to a main file that belong to the same archive, by the names the recipe gives them. */
export async function companionsOf(recipe: Recipe, mainPath: string): Promise<string[]> {
  const [, ...sets] = recipe.volumes;
  if (sets.length === 0) return [];
  const folder = dirname(mainPath);
  if (sets.some(({ anyFile }) => anyFile)) return filesBelow(folder, mainPath);
  const files = await readdir(folder).catch(() => [] as string[]);
  const main = basename(mainPath);
  const found = files.flatMap((file) => {
    if (file === main) return [];
    const set = sets.findIndex((one) => volumeNumber(one, main, file) !== undefined);
    return set < 0 ? [] : [{ file, set, number: volumeNumber(sets[set]!, main, file)! }];
  });
  return found.sort((a, b) => a.set - b.set || a.number - b.number).map(({ file }) => join(folder, file));
}

/** What a volume's file may start as: a copy of the file it is made from, when most of that stays where it is. */
export function startOf(volume: PlannedVolume): { readonly from?: string } {
  const path = (volume.base as Partial<FileSource> | undefined)?.path;
  return path === undefined || keptInPlace(volume) < volume.size / 2 ? {} : { from: path };
}
