/** Meshes: what is drawn, what it hangs on and what moves it. Places are in units of the game, as its file has them. */

/** What is drawn at once, with one material. Arrays hold the numbers of all vertices, one vertex behind the other. */
export interface MeshPart {
  readonly material: number;
  /** x, y, z of each vertex. */
  readonly positions: Float32Array;
  /** x, y, z of length 1. */
  readonly normals?: Float32Array | undefined;
  /** x, y, z of length 1 along u, and the side v points to: 1 or -1. */
  readonly tangents?: Float32Array | undefined;
  /** u, v; v points down. */
  readonly uvs?: Float32Array | undefined;
  /** Red, green, blue, alpha from 0 to 1. */
  readonly colours?: Float32Array | undefined;
  /** Four joints of each vertex. */
  readonly joints?: Uint16Array | undefined;
  /** How much the vertex follows each of them; 1 together. */
  readonly weights?: Float32Array | undefined;
  /** Three corners of each triangle, seen from outside against the clock. */
  readonly indices: Uint32Array;
}

export interface MeshMaterial {
  readonly name: string;
  /** Paths of its pictures. */
  readonly textures: readonly string[];
}

export interface MeshJoint {
  readonly name: string;
  /** A joint before this one; -1 for none. */
  readonly parent: number;
  /** From the parent. */
  readonly at: Triple;
  /** A quaternion x, y, z, w of length 1. */
  readonly turn: Quad;
}

export interface MeshLevel {
  /** The distance from which on it is drawn, in units of the game. */
  readonly from: number;
  readonly parts: readonly MeshPart[];
}

export interface Mesh {
  /** Metres that one unit is. */
  readonly unit: number;
  readonly up: 'y' | 'z';
  readonly materials: readonly MeshMaterial[];
  readonly joints: readonly MeshJoint[];
  /** Levels of detail, the most detailed first. */
  readonly levels: readonly MeshLevel[];
}

/** How the joints of a mesh turn and move. */
export interface MeshClip {
  readonly name: string;
  /** Frames a second. */
  readonly rate: number;
  readonly loops: boolean;
  /** How many joints move. */
  readonly joints: number;
  readonly frames: number;
  /** A quaternion of every joint for every frame, frame by frame. */
  readonly turns: Float32Array;
  /** x, y, z in the same order. */
  readonly places: Float32Array;
}

export type Triple = readonly [x: number, y: number, z: number];
export type Quad = readonly [x: number, y: number, z: number, w: number];

export const STILL: Quad = [0, 0, 0, 1];

export const vertexCount = ({ positions }: MeshPart): number => positions.length / 3;
export const triangleCount = ({ indices }: MeshPart): number => indices.length / 3;

const sum = (parts: readonly MeshPart[], of: (part: MeshPart) => number) =>
  parts.reduce((total, part) => total + of(part), 0);

export const trianglesOf = ({ parts }: MeshLevel): number => sum(parts, triangleCount);
export const verticesOf = ({ parts }: MeshLevel): number => sum(parts, vertexCount);

export interface Bounds {
  readonly low: Triple;
  readonly high: Triple;
}

/** The box around the vertices of some parts; undefined when they have none. */
export function boundsOf(parts: readonly MeshPart[]): Bounds | undefined {
  const low: [number, number, number] = [Infinity, Infinity, Infinity];
  const high: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (const { positions } of parts)
    for (let i = 0; i < positions.length; i += 3)
      for (let axis = 0; axis < 3; axis++) {
        const value = positions[i + axis]!;
        if (value < low[axis]!) low[axis] = value;
        if (value > high[axis]!) high[axis] = value;
      }
  return low[0] <= high[0] ? { low, high } : undefined;
}
