/** Where the joints of a mesh are: matrices of 4 × 4, column by column. */
import type { MeshJoint, Quad, Triple } from './mesh';

export function matrixOf([x, y, z]: Triple, [qx, qy, qz, qw]: Quad): number[] {
  return [
    ...[1 - 2 * (qy * qy + qz * qz), 2 * (qx * qy + qz * qw), 2 * (qx * qz - qy * qw), 0],
    ...[2 * (qx * qy - qz * qw), 1 - 2 * (qx * qx + qz * qz), 2 * (qy * qz + qx * qw), 0],
    ...[2 * (qx * qz + qy * qw), 2 * (qy * qz - qx * qw), 1 - 2 * (qx * qx + qy * qy), 0],
    ...[x, y, z, 1],
  ];
}

export function multiply(a: readonly number[], b: readonly number[]): number[] {
  const out = new Array<number>(16).fill(0);
  for (let column = 0; column < 4; column++)
    for (let row = 0; row < 4; row++)
      for (let i = 0; i < 4; i++) out[column * 4 + row]! += a[i * 4 + row]! * b[column * 4 + i]!;
  return out;
}

/** The inverse of a matrix that only turns and moves. */
export function invertRigid(matrix: readonly number[]): number[] {
  const out = new Array<number>(16).fill(0);
  for (let row = 0; row < 3; row++) {
    for (let column = 0; column < 3; column++) out[column * 4 + row] = matrix[row * 4 + column]!;
    // Adding 0 keeps -0 out of files.
    out[12 + row] =
      -(matrix[row * 4]! * matrix[12]! + matrix[row * 4 + 1]! * matrix[13]! + matrix[row * 4 + 2]! * matrix[14]!) + 0;
  }
  out[15] = 1;
  return out;
}

/** Each joint at rest, in the space of the mesh. */
export function restMatrices(joints: readonly MeshJoint[]): number[][] {
  const found: number[][] = [];
  for (const { parent, at, turn } of joints) {
    const own = matrixOf(at, turn);
    found.push(parent < 0 ? own : multiply(found[parent]!, own));
  }
  return found;
}
