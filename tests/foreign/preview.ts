/** Whether entries are seen or heard as the pages show them. */
import { FormatError } from '../../src/core/faults';
import { formRecipe, type EntryToConvert } from '../../src/core/forms';
import { readOpenFont } from '../../src/core/forms/font';
import { readMeshFile } from '../../src/core/forms/mesh';
import { readPictureFiles, unpackLevel } from '../../src/core/forms/picture';
import { readRecipeSound } from '../../src/core/forms/sound';
import { kindOf, type Kind } from '../../src/core/game';
import type { Recipe } from '../../src/core/recipe';
import { probeSound } from '../../src/programs';

const HEAD_BYTES = 512;

export interface Form {
  readonly kind: Kind;
  /** The form recipe that describes it. */
  readonly recipe: Recipe | undefined;
}

export async function formOf(path: string, head: Uint8Array, recipes: readonly Recipe[]): Promise<Form> {
  const forms = recipes.filter(({ presents }) => presents !== 'archive' && presents !== 'folder');
  const recipe = await formRecipe(forms, head.subarray(0, HEAD_BYTES), path);
  if (recipe === undefined) return { kind: kindOf(path, head), recipe };
  return { kind: recipe.presents === 'clip' ? 'mesh' : (recipe.presents as Kind), recipe };
}

const READERS: Partial<Record<Kind, (entry: EntryToConvert, recipe: Recipe | undefined) => Promise<unknown>>> = {
  async picture(entry, recipe) {
    const file = { path: entry.path, bytes: await entry.bytes() };
    const { picture } = await readPictureFiles(file, recipe, (path) => entry.companion(path));
    return unpackLevel(picture, { mip: 0 });
  },
  mesh: async ({ path, bytes }, recipe) => readMeshFile({ path, bytes: await bytes() }, recipe),
  font: async ({ path, bytes }) => readOpenFont(await bytes(), path),
  async sound({ path, bytes }, recipe) {
    if (recipe !== undefined) return readRecipeSound(recipe, await bytes(), path);
    if ((await probeSound(await bytes(), path)) === undefined)
      throw new FormatError({ code: 'wrong-kind', entry: path, what: 'nothing is heard in it' });
    return undefined;
  },
};

export const isSeen = (kind: Kind): boolean => READERS[kind] !== undefined;

/** @throws FormatError for what cannot be read */
export async function seen(entry: EntryToConvert, { kind, recipe }: Form): Promise<void> {
  await READERS[kind]?.(entry, recipe);
}
