/** Boxes and cylinders, of which the models are built. Lengths in metres; y is up. */
import type { MeshPart, Vertex } from '../archives/mesh';

type Triple = readonly [number, number, number];

export interface Solid {
  readonly vertices: Vertex[];
  readonly indices: number[];
}

/** Six sides, each with its own four vertices, so that edges are sharp; each side shows `uv`, a part of the texture. */
export function box(centre: Triple, size: Triple, joint = 0, uv: readonly number[] = [0, 0, 1, 1]): Solid {
  const vertices: Vertex[] = [];
  const indices: number[] = [];
  for (let axis = 0; axis < 3; axis++) {
    for (const side of [-1, 1]) {
      const first = vertices.length;
      for (const [across, up] of [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ] as const) {
        const corner = [0, 0, 0];
        corner[axis] = side;
        corner[(axis + 1) % 3] = across;
        corner[(axis + 2) % 3] = up;
        const position = corner.map((value, i) => centre[i]! + (value * size[i]!) / 2);
        vertices.push({
          position: [position[0]!, position[1]!, position[2]!],
          normal: [axis === 0 ? side : 0, axis === 1 ? side : 0, axis === 2 ? side : 0],
          uv: [across < 0 ? uv[0]! : uv[2]!, up < 0 ? uv[3]! : uv[1]!],
          joint,
        });
      }
      const order = side > 0 ? [0, 1, 2, 0, 2, 3] : [0, 2, 1, 0, 3, 2];
      indices.push(...order.map((i) => first + i));
    }
  }
  return { vertices, indices };
}

/** Standing on `foot`, closed at both ends. */
export function cylinder(foot: Triple, radius: number, height: number, sides: number, joint = 0): Solid {
  const vertices: Vertex[] = [];
  const indices: number[] = [];
  const ring = (y: number, normalOf: (x: number, z: number) => Triple): number => {
    const first = vertices.length;
    for (let i = 0; i <= sides; i++) {
      const angle = (i / sides) * Math.PI * 2;
      const [x, z] = [Math.cos(angle), Math.sin(angle)];
      vertices.push({
        position: [foot[0] + x * radius, foot[1] + y, foot[2] + z * radius],
        normal: normalOf(x, z),
        uv: [i / sides, 1 - y / height],
        joint,
      });
    }
    return first;
  };
  const low = ring(0, (x, z) => [x, 0, z]);
  const high = ring(height, (x, z) => [x, 0, z]);
  for (let i = 0; i < sides; i++) indices.push(low + i, high + i, low + i + 1, low + i + 1, high + i, high + i + 1);
  for (const up of [-1, 1]) {
    const rim = ring(up < 0 ? 0 : height, () => [0, up, 0]);
    for (let i = 1; i < sides - 1; i++)
      indices.push(...(up < 0 ? [rim, rim + i, rim + i + 1] : [rim, rim + i + 1, rim + i]));
  }
  return { vertices, indices };
}

/** Several solids as one part of a model. */
export function part(material: number, ...solids: readonly Solid[]): MeshPart {
  const vertices: Vertex[] = [];
  const indices: number[] = [];
  for (const solid of solids) {
    indices.push(...solid.indices.map((index) => index + vertices.length));
    vertices.push(...solid.vertices);
  }
  return { material, vertices, indices };
}
