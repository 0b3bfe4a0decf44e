/** Normals and tangents worked out from places and texture coordinates. */
import type { MeshPart } from './mesh';

/**
 * Normals of vertices: those of their triangles, weighted by the angle these have there (Thürmer and Wüthrich, 1998).
 * Vertices that lie at one place and are joined to the same corner stay apart: only what shares an index is smooth.
 */
export function makeNormals({ positions, indices }: Pick<MeshPart, 'positions' | 'indices'>): Float32Array {
  const out = new Float32Array(positions.length);
  const at = (vertex: number, axis: number) => positions[vertex * 3 + axis]!;
  for (let t = 0; t < indices.length; t += 3) {
    const corners = [indices[t]!, indices[t + 1]!, indices[t + 2]!] as const;
    const side = (from: number, to: number) =>
      [0, 1, 2].map((axis) => at(to, axis) - at(from, axis)) as [number, number, number];
    const normal = cross(side(corners[0], corners[1]), side(corners[0], corners[2]));
    const length = Math.hypot(...normal);
    if (length === 0) continue;
    for (let i = 0; i < 3; i++) {
      const [here, next, last] = [corners[i]!, corners[(i + 1) % 3]!, corners[(i + 2) % 3]!];
      const [a, b] = [side(here, next), side(here, last)];
      const angle = Math.acos(Math.min(1, Math.max(-1, dot(a, b) / (Math.hypot(...a) * Math.hypot(...b)))));
      for (let axis = 0; axis < 3; axis++) out[here * 3 + axis]! += (normal[axis]! / length) * angle;
    }
  }
  return unit(out, 3);
}

/** Tangents along u, at right angles to the normals, with the side v points to (as glTF has them). */
export function makeTangents({ positions, indices, uvs, normals }: MeshPart): Float32Array | undefined {
  if (uvs === undefined || normals === undefined) return undefined;
  const count = positions.length / 3;
  const [along, across] = [new Float32Array(count * 3), new Float32Array(count * 3)];
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [indices[t]!, indices[t + 1]!, indices[t + 2]!];
    const [u1, v1, u2, v2] = [
      uvs[b * 2]! - uvs[a * 2]!,
      uvs[b * 2 + 1]! - uvs[a * 2 + 1]!,
      uvs[c * 2]! - uvs[a * 2]!,
      uvs[c * 2 + 1]! - uvs[a * 2 + 1]!,
    ];
    const area = u1 * v2 - u2 * v1;
    if (area === 0) continue;
    for (let axis = 0; axis < 3; axis++) {
      const [first, second] = [b, c].map((one) => positions[one * 3 + axis]! - positions[a * 3 + axis]!) as [
        number,
        number,
      ];
      for (const vertex of [a, b, c]) {
        along[vertex * 3 + axis]! += (first * v2 - second * v1) / area;
        across[vertex * 3 + axis]! += (second * u1 - first * u2) / area;
      }
    }
  }
  const out = new Float32Array(count * 4);
  for (let i = 0; i < count; i++) {
    const pick = (from: Float32Array) => [from[i * 3]!, from[i * 3 + 1]!, from[i * 3 + 2]!] as [number, number, number];
    const [n, t, b] = [pick(normals), pick(along), pick(across)];
    const lean = dot(n, t);
    let tangent = t.map((value, axis) => value - n[axis]! * lean) as [number, number, number];
    const length = Math.hypot(...tangent);
    tangent = length > 1e-12 ? (tangent.map((value) => value / length) as typeof tangent) : anyAcross(n);
    // In open formats v points down, which turns the side around.
    out.set([...tangent, dot(cross(n, tangent), b) > 0 ? -1 : 1], i * 4);
  }
  return out;
}

/** A direction at right angles to another. */
function anyAcross(n: readonly [number, number, number]): [number, number, number] {
  const other = cross(n, Math.abs(n[0]) < 0.9 ? [1, 0, 0] : [0, 1, 0]);
  const length = Math.hypot(...other) || 1;
  return other.map((value) => value / length) as [number, number, number];
}

const dot = (a: readonly number[], b: readonly number[]) => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!;

const cross = (a: readonly number[], b: readonly number[]): [number, number, number] => [
  a[1]! * b[2]! - a[2]! * b[1]!,
  a[2]! * b[0]! - a[0]! * b[2]!,
  a[0]! * b[1]! - a[1]! * b[0]!,
];

/** Each made of length 1; what has none points up. */
function unit(values: Float32Array, step: number): Float32Array {
  for (let i = 0; i < values.length; i += step) {
    const length = Math.hypot(values[i]!, values[i + 1]!, values[i + 2]!);
    if (length > 0) for (let axis = 0; axis < 3; axis++) values[i + axis]! /= length;
    else values.set([0, 1, 0], i);
  }
  return values;
}
