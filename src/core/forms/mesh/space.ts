/** From the space of a game to the one of open formats, and back: metres, y up. */
import type { Mesh, MeshClip, MeshLevel, MeshPart, Quad, Triple } from './mesh';

type Space = Pick<Mesh, 'unit' | 'up'>;

const METRES: Space = { unit: 1, up: 'y' };

/** How x, y and z of one space are in the other. */
function turner(from: Space, to: Space, scale: number) {
  if (from.up === to.up) return (x: number, y: number, z: number): Triple => [x * scale, y * scale, z * scale];
  return from.up === 'z'
    ? (x: number, y: number, z: number): Triple => [x * scale, z * scale, -y * scale]
    : (x: number, y: number, z: number): Triple => [x * scale, -z * scale, y * scale];
}

function turned(
  values: Float32Array | undefined,
  step: 3 | 4,
  turn: ReturnType<typeof turner>,
): Float32Array | undefined {
  if (values === undefined) return undefined;
  const out = values.slice();
  for (let i = 0; i < out.length; i += step) out.set(turn(values[i]!, values[i + 1]!, values[i + 2]!), i);
  return out;
}

const quad = ([x, y, z, w]: Quad, turn: ReturnType<typeof turner>): Quad => [...turn(x, y, z), w];

const same = (from: Space, to: Space) => from.unit === to.unit && from.up === to.up;

function partTo(part: MeshPart, from: Space, to: Space): MeshPart {
  const directions = turner(from, to, 1);
  return {
    ...part,
    positions: turned(part.positions, 3, turner(from, to, from.unit / to.unit))!,
    normals: turned(part.normals, 3, directions),
    tangents: turned(part.tangents, 4, directions),
  };
}

function levelTo({ from: distance, parts }: MeshLevel, from: Space, to: Space): MeshLevel {
  return { from: (distance * from.unit) / to.unit, parts: parts.map((part) => partTo(part, from, to)) };
}

/** In metres with y up. */
export function inMetres(mesh: Mesh): Mesh {
  if (same(mesh, METRES)) return mesh;
  const [places, directions] = [turner(mesh, METRES, mesh.unit), turner(mesh, METRES, 1)];
  return {
    ...METRES,
    materials: mesh.materials,
    joints: mesh.joints.map((joint) => ({ ...joint, at: places(...joint.at), turn: quad(joint.turn, directions) })),
    levels: mesh.levels.map((level) => levelTo(level, mesh, METRES)),
  };
}

/** Levels from metres with y up to the space of a game. */
export function inSpaceOf(game: Space, levels: readonly MeshLevel[]): readonly MeshLevel[] {
  return same(game, METRES) ? levels : levels.map((level) => levelTo(level, METRES, game));
}

export function clipTo(clip: MeshClip, from: Space, to: Space): MeshClip {
  if (same(from, to)) return clip;
  return {
    ...clip,
    turns: turned(clip.turns, 4, turner(from, to, 1))!,
    places: turned(clip.places, 3, turner(from, to, from.unit / to.unit))!,
  };
}

export const clipInMetres = (clip: MeshClip, game: Space): MeshClip => clipTo(clip, game, METRES);
export const clipInSpaceOf = (game: Space, clip: MeshClip): MeshClip => clipTo(clip, METRES, game);
