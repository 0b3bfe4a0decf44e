import { bufferSource } from '../../bytes';
import type { Recipe } from '../../recipe';
import type { Mesh } from './mesh';
import type { OpenMesh } from './mesh-model';
import { openAsMesh } from './open-as-mesh';
import { readOpenMesh } from './open-mesh';
import { readRecipeMesh, type RecipeMesh } from './recipe-mesh';

export type MeshOfFile =
  | { readonly is: 'recipe'; readonly mesh: Mesh; readonly read: RecipeMesh }
  | { readonly is: 'open'; readonly mesh: Mesh; readonly open: OpenMesh };

/**
 * @param recipe that presents the file as a mesh; undefined for an open format
 * @throws FormatError `wrong-kind` when it is no mesh, and what reading it says
 */
export async function readMeshFile(
  { path, bytes }: { readonly path: string; readonly bytes: Uint8Array },
  recipe: Recipe | undefined,
): Promise<MeshOfFile> {
  if (recipe !== undefined) {
    const read = await readRecipeMesh(recipe, [bufferSource(bytes, path)]);
    return { is: 'recipe', read, mesh: read.mesh };
  }
  const open = await readOpenMesh(bytes, path);
  return { is: 'open', open, mesh: openAsMesh(open) };
}
