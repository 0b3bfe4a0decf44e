/** Whether entries are seen or heard, and whether what a recipe describes can be changed and put back. */
import { bufferSource, collect } from '../../src/core/bytes';
import { fileScratch } from '../../src/core/bytes/node';
import { formRecipe } from '../../src/core/forms';
import { readMeshFile } from '../../src/core/forms/mesh';
import { readPictureFiles, unpackLevel, writeRecipePicture, type BytesBeside } from '../../src/core/forms/picture';
import { readRecipeSound, writeRecipeSound } from '../../src/core/forms/sound';
import { kindOf, type Kind } from '../../src/core/game';
import {
  NO_EDITS,
  openArchive,
  planRebuild,
  readEntry,
  volumeBytes,
  type Archive,
  type Recipe,
} from '../../src/core/recipe';
import { probeSound } from '../../src/programs';

const HEAD_BYTES = 512;

/** The form recipe of an entry, and what it is. */
export async function formOf(
  path: string,
  head: Uint8Array,
  recipes: readonly Recipe[],
): Promise<{ kind: Kind; recipe: Recipe | undefined }> {
  const forms = recipes.filter(({ presents }) => presents !== 'archive' && presents !== 'folder');
  const recipe = await formRecipe(forms, head.subarray(0, HEAD_BYTES), path);
  if (recipe === undefined) return { kind: kindOf(path, head), recipe };
  return { kind: recipe.presents === 'clip' ? 'mesh' : (recipe.presents as Kind), recipe };
}

/**
 * Reads an entry as its pages would.
 *
 * @returns the bytes of a changed one where a recipe describes it; undefined for all others
 * @throws FormatError for what cannot be read
 */
export async function seen(
  { path, bytes }: { readonly path: string; readonly bytes: Uint8Array },
  { kind, recipe }: { readonly kind: Kind; readonly recipe: Recipe | undefined },
  beside: BytesBeside,
): Promise<Uint8Array | undefined> {
  if (kind === 'picture') {
    const found = await readPictureFiles({ path, bytes }, recipe, beside);
    const { rgba } = unpackLevel(found.picture, { mip: 0 });
    if (found.is !== 'recipe') return undefined;
    const { format } = found.picture;
    const level = new Uint8Array(found.picture.levels[0]!);
    // The last pixel takes the colour of the first.
    format.pack!(rgba, 0, level, level.length - format.bytes);
    return (await writeRecipePicture(found.read, { ...found.picture, levels: [level] }))[0];
  }
  if (kind === 'mesh') await readMeshFile({ path, bytes }, recipe);
  if (kind !== 'sound') return undefined;
  if (recipe === undefined) {
    if ((await probeSound(bytes, path)) === undefined) throw new Error(`${path} cannot be heard`);
    return undefined;
  }
  const sound = await readRecipeSound(recipe, bytes, path);
  return writeRecipeSound(sound, Uint8Array.from(sound.samples).reverse());
}

/** Whether an archive holds the changed entry, and it is read as it was meant, once it is put back. */
export async function comesBack(archive: Archive, entry: number, bytes: Uint8Array): Promise<boolean> {
  const scratch = fileScratch();
  try {
    const edits = { ...NO_EDITS, replace: new Map([[entry, bufferSource(bytes)]]) };
    const plan = await planRebuild(archive, edits, { scratch });
    const rebuilt = bufferSource(await collect(volumeBytes(plan.volumes[0]!)), archive.source.name);
    const again = await openArchive(archive.recipe, rebuilt);
    return Buffer.compare(await collect(readEntry(again, entry)), bytes) === 0;
  } finally {
    await scratch.release();
  }
}
