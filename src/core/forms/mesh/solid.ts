/** Shells united into one closed solid, for what is to be cut, printed or measured. */
import type { Note } from '../../notes';
import { findShells, weld, type Welded } from './inspect';
import type { MeshPart } from './mesh';

export interface Solid extends Welded {
  /** What became of the shells. */
  readonly notes: readonly Note[];
}

/**
 * All closed shells as one solid without insides, by a kernel that guarantees it to be closed; open ones stay next to it as
 * they are.
 */
export async function uniteShells(parts: readonly MeshPart[]): Promise<Solid> {
  const welded = weld(parts);
  const shells = findShells(welded);
  const { default: load } = await import('manifold-3d/manifold.js');
  const kernel = await load();
  kernel.setup();
  const solids: InstanceType<typeof kernel.Manifold>[] = [];
  const apart: Welded[] = [];
  let broken = 0;
  for (let shell = 0; shell < shells.count; shell++) {
    const own = onlyShell(welded, shells.ofTriangle, shell);
    if (shells.closed[shell] !== true) {
      apart.push(own);
      continue;
    }
    try {
      const mesh = new kernel.Mesh({ numProp: 3, vertProperties: own.places, triVerts: own.corners });
      solids.push(new kernel.Manifold(mesh));
    } catch {
      // Closed by its edges, and yet no solid: it passes through itself in a way the kernel refuses.
      broken++;
      apart.push(own);
    }
  }
  if (solids.length > 0) {
    const one = kernel.Manifold.union(solids);
    const { vertProperties, numProp, triVerts } = one.getMesh();
    const places = new Float32Array((vertProperties.length / numProp) * 3);
    for (let i = 0; i < places.length; i++) places[i] = vertProperties[Math.floor(i / 3) * numProp + (i % 3)]!;
    apart.unshift({ places, corners: Uint32Array.from(triVerts) });
    for (const solid of [...solids, one]) solid.delete();
  }
  const open = shells.count - solids.length - broken;
  return {
    ...joined(apart),
    notes: [
      solids.length === 0
        ? ({ code: 'mesh-no-solid' } as const)
        : ({ code: 'mesh-shells-united', count: solids.length } as const),
      ...(open > 0 ? [{ code: 'mesh-shells-left', count: open, reason: 'open' } as const] : []),
      ...(broken > 0 ? [{ code: 'mesh-shells-left', count: broken, reason: 'self-intersecting' } as const] : []),
    ],
  };
}

function onlyShell({ places, corners }: Welded, ofTriangle: Uint32Array, shell: number): Welded {
  const numbers = new Map<number, number>();
  const own: number[] = [];
  const kept: number[] = [];
  for (let i = 0; i < ofTriangle.length; i++) {
    if (ofTriangle[i] !== shell) continue;
    const three = [corners[i * 3]!, corners[i * 3 + 1]!, corners[i * 3 + 2]!];
    if (new Set(three).size < 3) continue;
    for (const place of three) {
      let number = numbers.get(place);
      if (number === undefined) {
        numbers.set(place, (number = numbers.size));
        own.push(places[place * 3]!, places[place * 3 + 1]!, places[place * 3 + 2]!);
      }
      kept.push(number);
    }
  }
  return { places: Float32Array.from(own), corners: Uint32Array.from(kept) };
}

function joined(all: readonly Welded[]): Welded {
  const places = new Float32Array(all.reduce((sum, one) => sum + one.places.length, 0));
  const corners = new Uint32Array(all.reduce((sum, one) => sum + one.corners.length, 0));
  let [place, corner] = [0, 0];
  for (const one of all) {
    places.set(one.places, place);
    for (const index of one.corners) corners[corner++] = index + place / 3;
    place += one.places.length;
  }
  return { places, corners };
}
