/** Meshes as files of open formats, and what else is worth a thread of its own: shells, and small pictures. */
import type { Note } from '../../notes';
import { drawMesh } from './draw';
import { writeGlb, type GltfOptions } from './gltf';
import { findShells, inspectMesh, weld, type Inspection } from './inspect';
import type { Mesh, MeshPart } from './mesh';
import { writeObj } from './obj';
import type { MeshOut } from './out-formats';
import { uniteShells } from './solid';
import { inMetres } from './space';
import { stlOf, writeStl } from './stl';

export interface MeshFileOrder extends GltfOptions {
  readonly name: string;
  readonly mesh: Mesh;
  readonly as: MeshOut;
  /** Units of an STL file for each metre. */
  readonly scale?: number;
  /** Closed shells are united into one solid, in STL. */
  readonly solid?: boolean;
}

export interface MeshFile {
  readonly bytes: Uint8Array;
  readonly notes: readonly Note[];
}

export async function meshFile({
  name,
  mesh,
  as,
  scale = 1000,
  solid = false,
  ...options
}: MeshFileOrder): Promise<MeshFile> {
  switch (as) {
    case 'glb':
      return { bytes: await writeGlb(name, mesh, options), notes: [] };
    case 'obj':
      return { bytes: writeObj(name, mesh), notes: [] };
    case 'stl': {
      if (!solid) return { bytes: writeStl(mesh, scale), notes: openShells(mesh) };
      const { notes, ...united } = await uniteShells(inMetres(mesh).levels[0]!.parts);
      return { bytes: stlOf(united, scale), notes };
    }
  }
}

function openShells(mesh: Mesh): Note[] {
  const { count, closed } = findShells(weld(mesh.levels[0]!.parts));
  const open = count - closed.filter(Boolean).length;
  return open === 0 ? [] : [{ code: 'mesh-shells-open', open, of: count }];
}

export const inspectParts = ({ parts }: { readonly parts: readonly MeshPart[] }): Inspection => inspectMesh(parts);

export interface DrawOrder {
  readonly mesh: Mesh;
  readonly width: number;
  readonly height: number;
  readonly colour: readonly [number, number, number];
}

export const drawOne = ({ mesh, width, height, colour }: DrawOrder): Uint8Array =>
  drawMesh(mesh, width, height, colour).rgba;
