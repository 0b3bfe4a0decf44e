import { bufferSource } from '../../bytes';
import { kindOf } from '../../game';
import { matches } from '../../recipe';
import type { EntryToConvert, FormConverter } from '../converter';
import type { Mesh } from './mesh';
import { meshFile } from './mesh-file';
import { meshName, openAsMesh } from './open-as-mesh';
import { readOpenMesh } from './open-mesh';
import { MESH_OUT, type MeshOut } from './out-formats';
import { readRecipeMesh } from './recipe-mesh';

async function meshOf({ path, head, bytes, recipes }: EntryToConvert): Promise<Mesh | undefined> {
  const first = bufferSource(head, path);
  for (const recipe of recipes)
    if (recipe.presents === 'mesh' && recipe.match.length > 0 && (await matches(recipe, first)))
      return (await readRecipeMesh(recipe, [bufferSource(await bytes(), path)])).mesh;
  return kindOf(path, head) === 'mesh' ? openAsMesh(await readOpenMesh(await bytes(), path)) : undefined;
}

/** Meshes without clips and pictures, which are entries of their own. */
export const meshConverter: FormConverter<MeshOut> = {
  formats: MESH_OUT,
  async convert(entry, as) {
    const mesh = await meshOf(entry);
    if (mesh === undefined) return undefined;
    const { bytes, says } = await meshFile({ name: meshName(entry.path), mesh, as });
    return { bytes, notes: says };
  },
};
