import { FaultError } from '../../faults';
import { kindOf } from '../../game';
import type { EntryToConvert, FormConverter } from '../converter';
import { formRecipe } from '../form-recipe';
import { ifReadable } from '../if-readable';
import { fitMeshFile } from './fit-file';
import { meshFile } from './mesh-file';
import { readMeshFile } from './mesh-of-file';
import { meshName } from './open-as-mesh';
import { MESH_OUT, type MeshOut } from './out-formats';
import type { RecipeClip } from './recipe-clip';

/** Meshes without clips and pictures, which are entries of their own. */
export const meshConverter: FormConverter<MeshOut> = {
  formats: MESH_OUT,
  async convert(entry, as) {
    const { path, head, bytes } = entry;
    const recipe = await recipeOf(entry, head, 'mesh');
    if (recipe === undefined && kindOf(path, head) !== 'mesh') return undefined;
    const { mesh } = await readMeshFile({ path, bytes: await bytes() }, recipe);
    const { bytes: made, notes } = await meshFile({ name: meshName(path), mesh, as });
    return { bytes: made, notes };
  },
  async fit(entry, file) {
    const { path, head } = entry;
    const isClip = (await recipeOf(entry, head, 'clip')) !== undefined;
    const recipe = await recipeOf(entry, head, 'mesh');
    if (!isClip && recipe === undefined && kindOf(path, head) !== 'mesh') return undefined;
    const bytes = await ifReadable(entry.bytes());
    if (bytes === undefined) return undefined;
    if (!isClip && (await ifReadable(readMeshFile({ path, bytes }, recipe))) === undefined) return undefined;
    const original = {
      ...{ path, bytes },
      recipeOf: (of: Uint8Array, form: 'mesh' | 'clip') => recipeOf(entry, of.subarray(0, 512), form),
      meshOf: (clip: RecipeClip) => meshOfClip(entry, clip),
    };
    const made = await fitMeshFile(original, file.bytes, file.fileName, {});
    return { files: [{ path, bytes: made.bytes }], notes: made.notes };
  },
};

const recipeOf = ({ recipes, path }: EntryToConvert, head: Uint8Array, form: 'mesh' | 'clip') =>
  formRecipe(
    recipes.filter(({ presents }) => presents === form),
    head,
    path,
  );

/** The mesh that a clip moves, in the same archive. */
async function meshOfClip(entry: EntryToConvert, { mesh: path }: RecipeClip) {
  const bytes = path === undefined ? undefined : await entry.companion(path);
  if (bytes === undefined)
    throw new FaultError({
      code: 'volume-missing',
      entry: entry.path,
      what: 'the mesh that the clip moves is not in this archive',
      ...(path === undefined ? {} : { expected: path }),
      hint: 'Bring a clip of the game’s own format.',
    });
  const moved = { ...entry, path: path! };
  return (await readMeshFile({ path: path!, bytes }, await recipeOf(moved, bytes.subarray(0, 512), 'mesh'))).mesh;
}
