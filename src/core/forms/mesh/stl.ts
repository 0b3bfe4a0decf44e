/** STL, the binary kind written and both kinds read: triangles and nothing else. */
import { FormatError } from '../../faults';
import { weld, type Welded } from './inspect';
import type { Mesh } from './mesh';
import type { OpenMesh } from './mesh-model';
import { inMetres } from './space';

const HEAD_BYTES = 80;
const TRIANGLE_BYTES = 50;

/** The most detailed level, z up as is the custom there. @param scale units of the file for each metre: 1000 for millimetres */
export function writeStl(game: Mesh, scale: number): Uint8Array {
  return stlOf(weld(inMetres(game).levels[0]!.parts), scale);
}

/** Triangles in metres with y up. */
export function stlOf({ places, corners }: Welded, scale: number): Uint8Array {
  const count = corners.length / 3;
  const bytes = new Uint8Array(HEAD_BYTES + 4 + count * TRIANGLE_BYTES);
  const view = new DataView(bytes.buffer);
  view.setUint32(HEAD_BYTES, count, true);
  const corner = (index: number) => [
    places[index * 3]! * scale,
    -places[index * 3 + 2]! * scale,
    places[index * 3 + 1]! * scale,
  ];
  for (let i = 0; i < count; i++) {
    const three = [0, 1, 2].map((j) => corner(corners[i * 3 + j]!));
    const [a, b, c] = three as [number[], number[], number[]];
    const [u, w] = [b, c].map((end) => end.map((value, axis) => value - a[axis]!)) as [number[], number[]];
    const normal = [u[1]! * w[2]! - u[2]! * w[1]!, u[2]! * w[0]! - u[0]! * w[2]!, u[0]! * w[1]! - u[1]! * w[0]!];
    const length = Math.hypot(...normal) || 1;
    const at = HEAD_BYTES + 4 + i * TRIANGLE_BYTES;
    for (const [j, value] of [...normal.map((one) => one / length), ...three.flat()].entries())
      view.setFloat32(at + j * 4, value, true);
  }
  return bytes;
}

/** @throws FormatError `wrong-kind` for one that is cut short or has no triangles */
export function readStl(bytes: Uint8Array, file: string): OpenMesh {
  const positions = isBinary(bytes) ? binaryPlaces(bytes) : textPlaces(bytes, file);
  const bad = positions.findIndex((value) => !Number.isFinite(value));
  if (positions.length === 0 || bad >= 0)
    throw new FormatError({
      code: 'wrong-kind',
      file,
      what:
        bad < 0 ? 'there are no triangles in it' : `triangle ${Math.floor(bad / 9)} has a place that is not a number`,
      hint: 'Is it whole? Export it again.',
    });
  // Back to y up.
  for (let i = 0; i < positions.length; i += 3)
    [positions[i + 1], positions[i + 2]] = [positions[i + 2]!, -positions[i + 1]!];
  const part = { material: -1, positions, indices: Uint32Array.from({ length: positions.length / 3 }, (_, i) => i) };
  const { places, corners } = weld([part]);
  return { materials: [], joints: [], clips: [], levels: [[{ material: -1, positions: places, indices: corners }]] };
}

function isBinary(bytes: Uint8Array): boolean {
  if (bytes.length < HEAD_BYTES + 4) return false;
  const count = new DataView(bytes.buffer, bytes.byteOffset).getUint32(HEAD_BYTES, true);
  return bytes.length === HEAD_BYTES + 4 + count * TRIANGLE_BYTES;
}

function binaryPlaces(bytes: Uint8Array): Float32Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const out = new Float32Array(view.getUint32(HEAD_BYTES, true) * 9);
  for (let i = 0; i < out.length; i++)
    out[i] = view.getFloat32(HEAD_BYTES + 4 + Math.floor(i / 9) * TRIANGLE_BYTES + 12 + (i % 9) * 4, true);
  return out;
}

function textPlaces(bytes: Uint8Array, file: string): Float32Array {
  const numbers = [...new TextDecoder().decode(bytes).matchAll(/^\s*vertex\s+(\S+)\s+(\S+)\s+(\S+)/gm)].flatMap(
    ([, ...three]) => three.map(Number),
  );
  if (numbers.length % 9 !== 0)
    throw new FormatError({
      code: 'wrong-kind',
      file,
      what: 'the last triangle is cut short',
      expected: '3 corners each',
    });
  return Float32Array.from(numbers);
}
