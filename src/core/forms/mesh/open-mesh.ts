/** Meshes of open formats as they come: metres (or units no one knows), y up, joints and materials by name. */
import { FormatError } from '../../faults';
import type { OpenMesh } from './mesh-model';
import { readGltf } from './read-gltf';
import { readObj } from './obj';
import { readPly } from './ply';
import { readStl } from './stl';

/** @throws FormatError `wrong-kind` for a file that is no mesh, or one with a fault, with its place */
export async function readOpenMesh(bytes: Uint8Array, file: string): Promise<OpenMesh> {
  const head = Buffer.from(bytes.subarray(0, 512)).toString('latin1');
  const ending = /\.(\w+)$/.exec(file)?.[1]?.toLowerCase();
  if (head.startsWith('glTF') || (ending === 'gltf' && /^\s*\{/.test(head))) return readGltf(bytes, file);
  if (ending === 'obj') return readObj(bytes, file);
  if (ending === 'stl') return readStl(bytes, file);
  if (/^ply\r?\n/.test(head)) return readPly(bytes, file);
  throw new FormatError({
    code: 'wrong-kind',
    file,
    what: 'it is no mesh that can be read',
    expected: 'GLB, glTF, OBJ, STL or PLY',
    found: ending === undefined ? 'a name without an ending' : `.${ending}`,
  });
}
