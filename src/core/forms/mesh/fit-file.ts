/** A file as the mesh or the clip that it replaces is kept. */
import type { Note } from '../../notes';
import { bufferSource } from '../../bytes';
import { FaultError } from '../../faults';
import { fieldPlace, type Recipe } from '../../recipe';
import { fitMesh, type MeshFitOptions } from './fit-mesh';
import { fitClip } from './fit-clip';
import type { Mesh } from './mesh';
import { meshFile } from './mesh-file';
import { readMeshFile } from './mesh-of-file';
import { meshName, openAsMesh } from './open-as-mesh';
import { readOpenMesh } from './open-mesh';
import { MESH_OUT } from './out-formats';
import { readRecipeClip, writeRecipeClip, type RecipeClip } from './recipe-clip';
import { writeRecipeMesh } from './recipe-mesh';
import { clipInSpaceOf, inMetres } from './space';

/** What is replaced. */
export interface MeshOriginal {
  /** In the game. */
  readonly path: string;
  readonly bytes: Uint8Array;
  /** The recipe that presents bytes of its path as a mesh, or as a clip; undefined for an open format. */
  recipeOf(bytes: Uint8Array, form: 'mesh' | 'clip'): Promise<Recipe | undefined>;
  /** The mesh that a clip moves. @throws FaultError `volume-missing` when it is not there */
  meshOf(clip: RecipeClip): Promise<Mesh>;
}

export interface FittedMeshFile {
  readonly bytes: Uint8Array;
  /** What was done to it; none when it went in unchanged. */
  readonly notes: readonly Note[];
}

/** @throws FormatError `wrong-kind` for what cannot be made to fit, with its place in the file */
export async function fitMeshFile(
  original: MeshOriginal,
  dropped: Uint8Array,
  fileName: string,
  fitOptions: MeshFitOptions,
): Promise<FittedMeshFile> {
  const { path, bytes } = original;
  const clips = await original.recipeOf(bytes, 'clip');
  if (clips !== undefined) return fitClipFile(original, clips, dropped, fileName);
  const found = await readMeshFile({ path, bytes }, await original.recipeOf(bytes, 'mesh'));
  if (found.is === 'open') return fitOpen(path, dropped, fileName);
  // One in the game's own format is read, so that what is broken is said here and not by the game.
  const own = await original.recipeOf(dropped, 'mesh');
  const same = own && (await readMeshFile({ path, bytes: dropped }, own).catch(() => undefined));
  if (same?.is === 'recipe') return { bytes: dropped, notes: [] };
  const { levels, notes } = await fitMesh(found.read, await readOpenMesh(dropped, fileName), fileName, fitOptions);
  const [made] = await writeRecipeMesh(found.read, levels);
  return { bytes: made!, notes };
}

async function fitClipFile(
  { path, bytes, recipeOf, meshOf }: MeshOriginal,
  recipe: Recipe,
  dropped: Uint8Array,
  fileName: string,
): Promise<FittedMeshFile> {
  if ((await recipeOf(dropped, 'clip')) !== undefined) return { bytes: dropped, notes: [] };
  const clip = await readRecipeClip(recipe, bufferSource(bytes, path));
  const mesh = await meshOf(clip);
  const free = fieldPlace(clip.file, clip.file.recipe.clip!.frames) !== undefined;
  const made = fitClip(clip.clip, inMetres(mesh).joints, await readOpenMesh(dropped, fileName), fileName, free);
  return { bytes: await writeRecipeClip(clip, clipInSpaceOf(mesh, made.clip)), notes: made.notes };
}

/** Of a mesh in an open format nothing more is known: one of the same format goes in as it is, another is converted. */
async function fitOpen(path: string, dropped: Uint8Array, fileName: string): Promise<FittedMeshFile> {
  const ending = (name: string) => name.slice(name.lastIndexOf('.') + 1).toLowerCase();
  const given = await readOpenMesh(dropped, fileName);
  if (ending(path) === ending(fileName)) return { bytes: dropped, notes: [] };
  const as = MESH_OUT.find((one) => one === ending(path));
  if (as === undefined)
    throw new FaultError({
      code: 'wrong-kind',
      file: fileName,
      entry: path,
      what: 'meshes in that format are read and not written',
      expected: ending(path),
      hint: 'Save it in that format.',
    });
  const { bytes } = await meshFile({ name: meshName(path), mesh: openAsMesh(given), as, scale: 1, allLevels: true });
  return { bytes, notes: [{ code: 'mesh-converted', to: as.toUpperCase() }] };
}
