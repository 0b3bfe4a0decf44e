/** MD3 meshes, made by a writer of the tests with arrays in either order. */
import { join } from 'node:path';
import { bufferSource, memoryScratch } from '../../src/core/bytes';
import { readMeshFile, sayMeshExpectation } from '../../src/core/forms/mesh';
import { isProven, openArchive, prove } from '../../src/core/recipe';
import { loadRecipe } from '../../src/core/recipe/node';
import { md3, SURFACES } from '../md3-sample';

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
