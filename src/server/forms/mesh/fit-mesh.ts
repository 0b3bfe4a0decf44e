/** A dropped mesh as the game keeps the one it replaces. */
import { FaultError } from '../../../core/faults';
import { MESH_OUT } from '../../../core/forms/mesh/out-formats';
import { fieldPlace } from '../../../core/recipe';
import {
  clipInSpaceOf,
  fitClip,
  fitMesh,
  inMetres,
  meshFile,
  meshName,
  openAsMesh,
  readOpenMesh,
  writeRecipeClip,
  writeRecipeMesh,
  type MeshWishes,
} from '../../../core/forms/mesh';
import { clipOfFile, meshOfClip, meshOfFile } from './entry-mesh';

export interface FittedMesh {
  readonly bytes: Uint8Array;
  /** What was done to it, as sentences; none when it went in as it is. */
  readonly done: readonly string[];
}

/**
 * @param original the entry that is replaced, with its path in the game
 * @throws FormatError `wrong-kind` for what cannot be made to fit, with its place in the file
 */
export async function fitMeshFile(
  gameId: number,
  original: { readonly path: string; readonly bytes: Uint8Array },
  dropped: Uint8Array,
  fileName: string,
  fitOptions: MeshWishes,
): Promise<FittedMesh> {
  const clip = await clipOfFile(original);
  if (clip !== undefined) {
    if ((await clipOfFile({ path: original.path, bytes: dropped })) !== undefined) return { bytes: dropped, done: [] };
    const { mesh } = await meshOfClip(gameId, clip);
    const free = fieldPlace(clip.file, clip.file.recipe.clip!.frames) !== undefined;
    const made = fitClip(clip.clip, inMetres(mesh).joints, await readOpenMesh(dropped, fileName), fileName, free);
    return { bytes: await writeRecipeClip(clip, clipInSpaceOf(mesh, made.clip)), done: made.done };
  }
  const found = await meshOfFile(original);
  if (found.is === 'open') return fitOpen(original.path, dropped, fileName);
  // One in the game's own format is read, so that what is broken is said here and not by the game.
  const same = await meshOfFile({ path: original.path, bytes: dropped }).catch(() => undefined);
  if (same?.is === 'recipe') return { bytes: dropped, done: [] };
  const { levels, done } = await fitMesh(found.read, await readOpenMesh(dropped, fileName), fileName, fitOptions);
  const [bytes] = await writeRecipeMesh(found.read, levels);
  return { bytes: bytes!, done };
}

/** Of a mesh in an open format nothing more is known: one of the same format goes in as it is, another is turned into it. */
async function fitOpen(path: string, dropped: Uint8Array, fileName: string): Promise<FittedMesh> {
  const ending = (name: string) => name.slice(name.lastIndexOf('.') + 1).toLowerCase();
  const given = await readOpenMesh(dropped, fileName);
  if (ending(path) === ending(fileName)) return { bytes: dropped, done: [] };
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
  return { bytes, done: [`turned into ${as.toUpperCase()}`] };
}
