/** Writes a model: materials, joints, and levels of detail, each of parts with vertices and triangles of their own. */
import { ByteBuilder } from './byte-builder';

export interface Vertex {
  readonly position: readonly [number, number, number];
  /** Length 1. */
  readonly normal: readonly [number, number, number];
  /** 0 to 1. */
  readonly uv: readonly [number, number];
  /** The joint it hangs on, with all of its weight. */
  readonly joint: number;
}

export interface MeshPart {
  readonly material: number;
  readonly vertices: readonly Vertex[];
  /** Three of a triangle, seen from outside against the clock. */
  readonly indices: readonly number[];
}

export interface Joint {
  readonly name: string;
  /** -1 for the root; otherwise a joint before this one. */
  readonly parent: number;
  /** From the parent, in metres. */
  readonly position: readonly [number, number, number];
}

export interface Mesh {
  readonly materials: readonly { readonly name: string; readonly textures: readonly string[] }[];
  readonly joints: readonly Joint[];
  /** The most detailed first; each with the distance in metres from which on it is drawn. */
  readonly levels: readonly { readonly from: number; readonly parts: readonly MeshPart[] }[];
}

const VERTEX_BYTES = 20;
const JOINTED_VERTEX_BYTES = 28;

export function writeMesh({ materials, joints, levels }: Mesh): Uint8Array {
  const parts = levels.flatMap(({ parts: own }) => own);
  const positions = parts.flatMap(({ vertices }) => vertices.map(({ position }) => position));
  const bounds = [Math.min, Math.max].flatMap((pick) =>
    [0, 1, 2].map((axis) => positions.reduce((found, position) => pick(found, position[axis]!), positions[0]![axis]!)),
  );
  const tables = new ByteBuilder();
  for (const { name, textures } of materials) {
    tables.text8(name).u8(textures.length);
    for (const texture of textures) tables.text8(texture);
  }
  for (const { name, parent, position } of joints) {
    tables.text8(name).u16(parent & 0xffff);
    for (const value of position) tables.f32(value);
  }
  const head = new ByteBuilder()
    .text('GPMS')
    .u16(4) // version
    .u16(joints.length > 0 ? 1 : 0) // bit 0: vertices hang on joints
    .u16(materials.length)
    .u16(joints.length)
    .u16(levels.length)
    .u16(parts.length)
    .u32(tables.length);
  for (const value of bounds) head.f32(value);
  const rows = new ByteBuilder();
  for (const { from, parts: own } of levels) rows.f32(from).u32(own.length);
  const data = new ByteBuilder();
  const vertexBytes = joints.length > 0 ? JOINTED_VERTEX_BYTES : VERTEX_BYTES;
  const partRows = new ByteBuilder();
  for (const { material, vertices, indices } of parts) {
    partRows.u32(material).u32(vertices.length).u32(indices.length);
    for (const vertex of vertices) writeVertex(data, vertex, vertexBytes === JOINTED_VERTEX_BYTES);
    for (const index of indices) data.u16(index);
    data.align(4);
  }
  return head.raw(tables.bytes()).align(4).raw(rows.bytes()).raw(partRows.bytes()).raw(data.bytes()).bytes();
}

function writeVertex(out: ByteBuilder, { position, normal, uv, joint }: Vertex, jointed: boolean): void {
  for (const value of position) out.f32(value);
  for (const value of normal) out.u8(Math.round(value * 127) & 0xff);
  out.u8(0);
  for (const value of uv) out.u16(Math.round(value * 0xffff));
  if (jointed) out.u8(joint).fill(3).u8(255).fill(3);
}
