/** An MD3 mesh of two surfaces and two frames, written as the engine's released sources describe the format. */
import { ByteBuilder } from '../demo/archives/byte-builder';

interface Surface {
  readonly name: string;
  readonly shader: string | undefined;
  /** x, y, z of each vertex in 64ths, of the first frame. */
  readonly places: readonly (readonly [number, number, number])[];
  readonly corners: readonly (readonly [u: number, v: number])[];
  readonly triangles: readonly (readonly [number, number, number])[];
}

export const SURFACES: readonly Surface[] = [
  {
    ...{ name: 'cabin', shader: 'models/cabin.tga' },
    places: [
      [0, 0, 0],
      [64, 0, 0],
      [0, 64, 0],
      [0, 0, -128],
    ],
    corners: [
      [0, 0],
      [1, 0],
      [0, 1],
      [0.5, 0.25],
    ],
    triangles: [
      [0, 1, 2],
      [0, 2, 3],
    ],
  },
  { name: 'tag', shader: undefined, places: [[1, 2, 3]], corners: [[0, 0]], triangles: [] },
];

const padded = (text: string) => Buffer.from(text.padEnd(64, '\0'));

function surfaceBytes({ name, shader, places, corners, triangles }: Surface, shadersFirst: boolean): Buffer {
  const shaders = shader === undefined ? Buffer.alloc(0) : Buffer.concat([padded(shader), Buffer.alloc(4)]);
  const indices = Buffer.concat(triangles.flat().map((one) => Buffer.from(Uint32Array.of(one).buffer)));
  const uvs = Buffer.from(Float32Array.from(corners.flat()).buffer);
  const frame = (by: number) =>
    Buffer.concat(places.map((place) => Buffer.from(Int16Array.of(...place.map((one) => one + by), 0).buffer)));
  const [shadersAt, trianglesAt] = shadersFirst ? [108, 108 + shaders.length] : [108 + indices.length, 108];
  const cornersAt = 108 + shaders.length + indices.length;
  const verticesAt = cornersAt + uvs.length;
  const vertices = Buffer.concat([frame(0), frame(9)]);
  const head = new ByteBuilder().raw(Buffer.from('IDP3')).raw(padded(name)).u32(0).u32(2);
  for (const one of [shader === undefined ? 0 : 1, places.length, triangles.length]) head.u32(one);
  for (const one of [trianglesAt, shadersAt, cornersAt, verticesAt, verticesAt + vertices.length]) head.u32(one);
  const arrays = shadersFirst ? [shaders, indices] : [indices, shaders];
  return Buffer.concat([head.bytes(), ...arrays, uvs, vertices]);
}

export function md3(shadersFirst: boolean): Buffer {
  const surfaces = SURFACES.map((surface) => surfaceBytes(surface, shadersFirst));
  const frames = Buffer.alloc(112, 7);
  const head = new ByteBuilder().raw(Buffer.from('IDP3')).u32(15).raw(padded('cabin')).u32(0).u32(2).u32(0);
  head
    .u32(SURFACES.length)
    .u32(0)
    .u32(108)
    .u32(108 + frames.length)
    .u32(108 + frames.length);
  const body = Buffer.concat([frames, ...surfaces]);
  return Buffer.concat([head.u32(108 + body.length).bytes(), body]);
}
