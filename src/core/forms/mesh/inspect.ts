/** What a mesh is made of: shells, holes, edges that no solid has, and its size. */
import { boundsOf, triangleCount, vertexCount, type MeshPart, type Triple } from './mesh';

export interface Inspection {
  readonly parts: number;
  readonly vertices: number;
  readonly triangles: number;
  /** Pieces that share no place with another. */
  readonly shells: number;
  /** How many of them are closed: every edge has two triangles. */
  readonly closed: number;
  /** Rings of edges that only one triangle has. */
  readonly holes: number;
  /** Edges that more than two triangles share. */
  readonly nonManifold: number;
  /** Triangles without area. */
  readonly flat: number;
  /** Along x, y and z, in units of the game. */
  readonly size: Triple;
}

/** Triangles of several parts over places: vertices at the same place are one. */
export interface Welded {
  /** x, y, z of each place. */
  readonly places: Float32Array;
  /** Three places of each triangle. */
  readonly corners: Uint32Array;
}

/** Places nearer to each other than this part of the size of the mesh are one: programs round a little differently. */
const NEAR = 1e-6;

/** Edges where a normal or a texture breaks are none of the shape: what counts is the place alone. */
export function weld(parts: readonly MeshPart[]): Welded {
  const vertices = parts.reduce((sum, part) => sum + vertexCount(part), 0);
  const corners = new Uint32Array(parts.reduce((sum, { indices }) => sum + indices.length, 0));
  const places = new Float32Array(vertices * 3);
  const cells = new Int32Array(vertices * 3);
  const box = boundsOf(parts);
  const step = box === undefined ? 1 : Math.max(...box.high.map((high, axis) => high - box.low[axis]!)) * NEAR || 1;
  let size = 1024;
  while (size < vertices * 2) size *= 2;
  // Open addressing: 0 is free, otherwise the number of a place and one more.
  const table = new Uint32Array(size);
  let count = 0;
  let corner = 0;
  for (const { positions, indices } of parts) {
    const placeOf = new Uint32Array(positions.length / 3);
    for (let i = 0; i < placeOf.length; i++) {
      const [x, y, z] = [0, 1, 2].map((axis) => Math.round((positions[i * 3 + axis]! - box!.low[axis]!) / step)) as [
        number,
        number,
        number,
      ];
      const hash = Math.imul(x, 73_856_093) ^ Math.imul(y, 19_349_663) ^ Math.imul(z, 83_492_791);
      let slot = (hash ^ (hash >>> 15)) & (size - 1);
      for (;;) {
        const found = table[slot]!;
        const at = (found - 1) * 3;
        if (found === 0) {
          places.set(positions.subarray(i * 3, i * 3 + 3), count * 3);
          cells.set([x, y, z], count * 3);
          table[slot] = ++count;
          placeOf[i] = count - 1;
          break;
        }
        if (cells[at] === x && cells[at + 1] === y && cells[at + 2] === z) {
          placeOf[i] = found - 1;
          break;
        }
        slot = (slot + 1) & (size - 1);
      }
    }
    for (const index of indices) corners[corner++] = placeOf[index]!;
  }
  return { places: places.slice(0, count * 3), corners };
}

/** Sets that grow together. */
class Sets {
  private readonly above: Uint32Array;
  constructor(count: number) {
    this.above = Uint32Array.from({ length: count }, (_, i) => i);
  }
  of(one: number): number {
    let root = one;
    while (this.above[root] !== root) root = this.above[root] = this.above[this.above[root]!]!;
    return root;
  }
  join(one: number, other: number): void {
    this.above[this.of(one)] = this.of(other);
  }
}

export interface Shells {
  /** The shell of each triangle. */
  readonly ofTriangle: Uint32Array;
  readonly count: number;
  /** Whether every edge of a shell has two triangles that run along it in opposite directions. */
  readonly closed: readonly boolean[];
  readonly holes: number;
  readonly nonManifold: number;
  readonly flat: number;
}

export function findShells({ places, corners }: Welded): Shells {
  const sets = new Sets(places.length / 3);
  const count = places.length / 3;
  const triangles = corners.length / 3;
  // The lower place, the higher, and whether the edge runs from low to high: one number each, to be sorted.
  const edges = new Float64Array(corners.length);
  let edgeCount = 0;
  let flat = 0;
  for (let i = 0; i < triangles; i++) {
    const [a, b, c] = [corners[i * 3]!, corners[i * 3 + 1]!, corners[i * 3 + 2]!];
    sets.join(a, b);
    sets.join(b, c);
    if (a === b || b === c || c === a) {
      flat++;
      continue;
    }
    for (const [from, to] of [
      [a, b],
      [b, c],
      [c, a],
    ] as const)
      edges[edgeCount++] = (Math.min(from, to) * count + Math.max(from, to)) * 2 + (from < to ? 0 : 1);
  }
  const sorted = edges.subarray(0, edgeCount).sort();
  const open = new Set<number>();
  const rims = new Map<number, number>();
  const rimSets = new Sets(count);
  let nonManifold = 0;
  for (let i = 0; i < edgeCount;) {
    const edge = Math.floor(sorted[i]! / 2);
    let end = i;
    let down = 0;
    while (end < edgeCount && Math.floor(sorted[end]! / 2) === edge) down += sorted[end++]! % 2;
    const uses = end - i;
    const [low, high] = [Math.floor(edge / count), edge % count];
    if (uses > 2) nonManifold++;
    if (uses !== 2 || down !== 1) open.add(sets.of(low));
    if (uses === 1) {
      rims.set(low, high);
      rimSets.join(low, high);
    }
    i = end;
  }
  const numbers = new Map<number, number>();
  const ofTriangle = new Uint32Array(triangles);
  const closed: boolean[] = [];
  for (let i = 0; i < triangles; i++) {
    const root = sets.of(corners[i * 3]!);
    let number = numbers.get(root);
    if (number === undefined) {
      number = numbers.size;
      numbers.set(root, number);
      closed.push(!open.has(root));
    }
    ofTriangle[i] = number;
  }
  const holes = new Set([...rims.keys()].map((place) => rimSets.of(place))).size;
  return { ofTriangle, count: numbers.size, closed, holes, nonManifold, flat };
}

export function inspectMesh(parts: readonly MeshPart[]): Inspection {
  const welded = weld(parts);
  const shells = findShells(welded);
  const box = boundsOf(parts);
  return {
    parts: parts.length,
    vertices: parts.reduce((sum, part) => sum + vertexCount(part), 0),
    triangles: parts.reduce((sum, part) => sum + triangleCount(part), 0),
    shells: shells.count,
    closed: shells.closed.filter(Boolean).length,
    holes: shells.holes,
    nonManifold: shells.nonManifold,
    flat: shells.flat,
    size:
      box === undefined ? [0, 0, 0] : [box.high[0] - box.low[0], box.high[1] - box.low[1], box.high[2] - box.low[2]],
  };
}
