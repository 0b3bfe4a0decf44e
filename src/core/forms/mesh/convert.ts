import { kindOf } from '../../game';
import type { FormConverter } from '../converter';
import { formRecipe } from '../form-recipe';
import { meshFile } from './mesh-file';
import { readMeshFile } from './mesh-of-file';
import { meshName } from './open-as-mesh';
import { MESH_OUT, type MeshOut } from './out-formats';

/** Meshes without clips and pictures, which are entries of their own. */
export const meshConverter: FormConverter<MeshOut> = {
  formats: MESH_OUT,
  async convert({ path, head, bytes, recipes }, as) {
    const presenting = recipes.filter(({ presents }) => presents === 'mesh');
    const recipe = await formRecipe(presenting, head, path);
    if (recipe === undefined && kindOf(path, head) !== 'mesh') return undefined;
    const { mesh } = await readMeshFile({ path, bytes: await bytes() }, recipe);
    const { bytes: made, says } = await meshFile({ name: meshName(path), mesh, as });
    return { bytes: made, notes: says };
  },
};
