/** MD3 meshes as the engine's released sources describe them: made by a writer of the test, with arrays in either order. */
import { join } from 'node:path';
import { ByteBuilder } from '../../demo/archives/byte-builder';
import { bufferSource } from '../../src/core/bytes';
import { readMeshFile, sayMeshExpectation } from '../../src/core/forms/mesh';
import { isProven, openArchive, prove } from '../../src/core/recipe';
import { loadRecipe } from '../../src/core/recipe/node';
import { memoryScratch } from '../../src/core/bytes';

interface Surface {
  readonly name: string;
  readonly shader: string | undefined;
  /** x, y, z of each vertex in 64ths, of the first frame. */
  readonly places: readonly (readonly [number, number, number])[];
  readonly corners: readonly (readonly [u: number, v: number])[];
  readonly triangles: readonly (readonly [number, number, number])[];
}

const SURFACES: readonly Surface[] = [
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

function md3(shadersFirst: boolean): Buffer {
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

const recipe = () => loadRecipe(join(__dirname, '..', '..', 'recipes', 'md3-mesh.yaml'));

test.each([true, false])(
  'the first frame is read, whatever order its arrays have (shaders first: %p)',
  async (first) => {
    const file = md3(first);
    const read = await readMeshFile({ path: 'cabin.md3', bytes: file }, await recipe());
    const { mesh } = read;
    expect(mesh.up).toBe('z');
    // 64 units of 64ths are an inch.
    expect(mesh.unit * 64).toBeCloseTo(0.0254, 6);
    expect(mesh.materials).toEqual([
      { name: 'cabin', textures: ['models/cabin.tga'] },
      { name: 'tag', textures: [] },
    ]);
    const [cabin, tag] = mesh.levels[0]!.parts;
    expect([...cabin!.positions]).toEqual(SURFACES[0]!.places.flat());
    expect([...cabin!.uvs!]).toEqual(SURFACES[0]!.corners.flat());
    // Against the clock, as everything here has it.
    expect([...cabin!.indices]).toEqual([0, 2, 1, 0, 3, 2]);
    expect([tag!.material, tag!.indices.length]).toEqual([1, 0]);
    const archive = await openArchive(await recipe(), bufferSource(file, 'cabin.md3'));
    expect(isProven(await prove(archive, { scratch: memoryScratch() }))).toBe(true);
    expect(read.is === 'recipe' && sayMeshExpectation(read.read)[0]).toMatch(/seen and taken out/);
  },
);

test('an array that reaches beyond its part is told with the part', async () => {
  const file = md3(true);
  // More vertices than there are, in the first surface.
  file.writeUInt32LE(5000, 108 + 112 + 80);
  await expect(readMeshFile({ path: 'cabin.md3', bytes: file }, await recipe())).rejects.toThrow(
    /the numbers for position of part 0 are not in its bytes/,
  );
});
