/** Recipes kept as files: the part of recipe/ that touches the file system. */
import { readdir, readFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import type { ByteSource } from '../bytes';
import { faultOf, FaultError, FormatError } from '../faults';
import { matches, matchLength } from './archive';
import { compileRecipe } from './compile';
import type { Recipe } from './model';

/** @throws FormatError `recipe-invalid` naming the file, FaultError when it cannot be read */
export async function loadRecipe(path: string): Promise<Recipe> {
  let text: string;
  try {
    text = await readFile(path, 'utf8');
  } catch (error) {
    throw new FaultError(faultOf(error, basename(path)), { cause: error });
  }
  try {
    return compileRecipe(text);
  } catch (error) {
    throw error instanceof FormatError ? error.with({ file: basename(path) }) : error;
  }
}

/** All recipes of a folder, by name. */
export async function loadRecipes(folder: string): Promise<Recipe[]> {
  const files = (await readdir(folder)).filter((file) => /\.ya?ml$/.test(file)).sort();
  return Promise.all(files.map((file) => loadRecipe(join(folder, file))));
}

/** The recipes whose format a file has, judged by its content alone. */
export async function recognise(recipes: readonly Recipe[], source: ByteSource): Promise<Recipe[]> {
  const length = Math.min(source.size, Math.max(0, ...recipes.map(matchLength)));
  const head = await source.read(0, length);
  return recipes.filter((recipe) => matches(recipe, head));
}
