/** Levels of detail, made from the most detailed one by a library. */
import { MeshoptSimplifier } from 'meshoptimizer/simplifier';
import type { MeshPart } from './mesh';

/** How far places may move, as a part of the size of the mesh. */
const MOST_ERROR = 0.2;

/**
 * A part with fewer triangles, as near as edges and textures let them go; vertices that are no longer used are gone.
 *
 * @param share of the triangles that is to stay, from 0 to 1
 */
export async function simplify(part: MeshPart, share: number): Promise<MeshPart> {
  await MeshoptSimplifier.ready;
  const wanted = Math.max(1, Math.round((part.indices.length / 3) * share)) * 3;
  if (wanted >= part.indices.length) return part;
  const [indices] = MeshoptSimplifier.simplify(part.indices, part.positions, 3, wanted, MOST_ERROR);
  return withCorners(part, indices.length >= 3 ? indices : part.indices.slice(0, 3));
}

/** The part with other triangles, and the vertices that they use. */
export function withCorners(part: MeshPart, corners: Uint32Array): MeshPart {
  const used = [...new Set(corners)].sort((a, b) => a - b);
  const numbers = new Map(used.map((vertex, i) => [vertex, i]));
  const pick = <T extends Float32Array | Uint16Array>(values: T | undefined, size: number): T | undefined => {
    if (values === undefined) return undefined;
    const out = new (values.constructor as new (length: number) => T)(used.length * size);
    for (const [i, vertex] of used.entries()) out.set(values.subarray(vertex * size, (vertex + 1) * size), i * size);
    return out;
  };
  return {
    material: part.material,
    positions: pick(part.positions, 3)!,
    normals: pick(part.normals, 3),
    tangents: pick(part.tangents, 4),
    uvs: pick(part.uvs, 2),
    colours: pick(part.colours, 4),
    joints: pick(part.joints, 4),
    weights: pick(part.weights, 4),
    indices: Uint32Array.from(corners, (corner) => numbers.get(corner)!),
  };
}
