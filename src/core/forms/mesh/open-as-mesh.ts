/** A mesh of an open format as any other: in metres, with y up. */
import type { Mesh } from './mesh';
import type { OpenMesh } from './mesh-model';

export function openAsMesh({ materials, joints, levels }: OpenMesh): Mesh {
  const some = levels.flat().some(({ material }) => material < 0);
  return {
    unit: 1,
    up: 'y',
    // What has no material is given one of its own.
    materials: [...materials, ...(some ? ['none'] : [])].map((name) => ({ name, textures: [] })),
    joints,
    levels: levels.map((parts, i) => ({
      from: i,
      parts: parts.map((part) => (part.material < 0 ? { ...part, material: materials.length } : part)),
    })),
  };
}

/** The name of a file without folders and ending. */
export const meshName = (path: string): string => path.slice(path.lastIndexOf('/') + 1).replace(/\.[^.]*$/, '');
