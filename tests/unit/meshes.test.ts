import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { validateBytes } from 'gltf-validator';
import { makeAssets } from '../../demo/assets';
import { readClip, readMesh } from '../../demo/stand-in/mesh-reader';
import { bufferSource, memoryScratch } from '../../src/core/bytes';
import { compileRecipe, isProven, openArchive, prove } from '../../src/core/recipe';
import { laneRange, readLane, writeLane } from '../../src/core/forms/mesh/numbers';
import {
  fitClip,
  fitMesh,
  inspectMesh,
  readOpenMesh,
  readRecipeClip,
  readRecipeMesh,
  stlOf,
  trianglesOf,
  uniteShells,
  writeGlb,
  writeObj,
  writeRecipeClip,
  writeRecipeMesh,
  writeStl,
  type Mesh,
  type MeshPart,
} from '../../src/core/forms/mesh';

const recipe = (id: string) => compileRecipe(readFileSync(join(__dirname, '../../recipes', `${id}.yaml`), 'utf8'));
const MESH = recipe('post-mesh');
const CLIP = recipe('post-clip');
let files: ReadonlyMap<string, Buffer>;

beforeAll(async () => {
  files = new Map((await makeAssets('1.4.1')).map(({ path, bytes }) => [path, bytes]));
});

const MODELS = ['models/cabin/cabin.mesh', 'models/crane/crane.mesh', 'models/post_box/post_box.mesh'];
const TURN = 'models/crane/turn.clip';
const meshAt = (path: string) => readRecipeMesh(MESH, [bufferSource(files.get(path)!, path)]);
const clipAt = (path: string) => readRecipeClip(CLIP, bufferSource(files.get(path)!, path));

/** A square of two triangles, with a corner at each of `at` and `at + 1`. */
const square = (at = 0): MeshPart => ({
  material: 0,
  positions: Float32Array.of(at, 0, 0, at + 1, 0, 0, at + 1, 1, 0, at, 1, 0),
  indices: Uint32Array.of(0, 1, 2, 0, 2, 3),
});

test.each(MODELS)('%s is proven, and comes out of its numbers byte for byte', async (path) => {
  const bytes = files.get(path)!;
  const proof = await prove(await openArchive(MESH, [bufferSource(bytes, path)]), { scratch: memoryScratch() });
  expect(isProven(proof)).toBe(true);
  const found = await meshAt(path);
  const [again] = await writeRecipeMesh(found, found.mesh.levels);
  expect(bytes.equals(again!)).toBe(true);
});

test('a clip comes out of its numbers byte for byte', async () => {
  const found = await clipAt(TURN);
  expect(files.get(TURN)!.equals(await writeRecipeClip(found, found.clip))).toBe(true);
  expect(found).toMatchObject({
    mesh: 'models/crane/crane.mesh',
    clip: { name: 'turn', frames: 36, rate: 12, loops: true },
  });
});

test.each(MODELS)('%s as GLB holds to the standard, and comes back with the same numbers', async (path) => {
  const found = await meshAt(path);
  const clips = path.includes('crane') ? [(await clipAt(TURN)).clip] : [];
  const glb = await writeGlb('model', found.mesh, { allLevels: true, clips });
  const { issues } = await validateBytes(glb);
  expect(issues.messages.filter(({ severity }) => severity < 2)).toEqual([]);
  const { levels, notes } = await fitMesh(found, await readOpenMesh(glb, 'model.glb'), 'model.glb');
  expect(notes).toEqual([]);
  const [again] = await writeRecipeMesh(found, levels);
  expect(files.get(path)!.equals(again!)).toBe(true);
});

test('a clip goes out with its mesh, and comes back frame by frame', async () => {
  const [found, mesh] = [await clipAt(TURN), await meshAt('models/crane/crane.mesh')];
  const given = await readOpenMesh(await writeGlb('crane', mesh.mesh, { clips: [found.clip] }), 'crane.glb');
  const { clip, notes } = fitClip(found.clip, mesh.mesh.joints, given, 'crane.glb', true);
  expect(notes).toEqual([]);
  const again = Buffer.from(await writeRecipeClip(found, clip));
  expect(readClip('test', TURN, again)).toEqual({ mesh: 'models/crane/crane.mesh', joints: 4 });
  expect(clip.turns.every((value, i) => Math.abs(value - found.clip.turns[i]!) < 1e-4)).toBe(true);
});

test('OBJ comes back with levels made, joints of the nearest vertices, and the game takes it', async () => {
  const found = await meshAt('models/crane/crane.mesh');
  const given = await readOpenMesh(writeObj('crane', found.mesh), 'crane.obj');
  const { levels, notes } = await fitMesh(found, given, 'crane.obj');
  expect(levels[0]!.parts.map(({ indices }) => indices.length)).toEqual(
    found.mesh.levels[0]!.parts.map(({ indices }) => indices.length),
  );
  expect(trianglesOf(levels[2]!)).toBeLessThan(trianglesOf(levels[0]!) / 2);
  expect(notes).toContainEqual({ code: 'mesh-joints-from-original' });
  const [bytes] = await writeRecipeMesh(found, levels);
  readMesh('test', 'crane', Buffer.from(bytes!));
  const again = await readRecipeMesh(MESH, [bufferSource(bytes!, 'crane')]);
  const hook = (mesh: Mesh) =>
    mesh.levels[0]!.parts.map(({ joints }) => [...joints!].filter((joint) => joint === 3).length);
  expect(hook(again.mesh)).toEqual(hook(found.mesh));
});

test('STL of a box of closed shells is one solid, as another reader sees it', async () => {
  const { mesh } = await meshAt('models/post_box/post_box.mesh');
  const { notes, ...solid } = await uniteShells(mesh.levels[0]!.parts);
  expect(notes).toEqual([{ code: 'mesh-shells-united', count: 2 }]);
  const file = join(mkdtempSync(join(tmpdir(), 'zero-latch-stl-')), 'box.stl');
  writeFileSync(file, stlOf(solid, 1000));
  const told = execFileSync('admesh', [file], { encoding: 'utf8' });
  expect(/Number of parts\s*:\s*(\d+)/.exec(told)?.[1]).toBe('1');
  expect(/Total disconnected facets\s*:\s*(\d+)/.exec(told)?.[1]).toBe('0');
  const high = /Min Z\s*=\s*(\S+), Max Z\s*=\s*(\S+)/.exec(told)!.slice(1).map(Number);
  expect(high).toEqual([0, 1200]);
  const back = await readOpenMesh(writeStl(mesh, 1), 'box.stl');
  expect(back.levels[0]![0]!.indices.length / 3).toBe(trianglesOf(mesh.levels[0]!));
});

test('what a mesh is made of is counted', () => {
  expect(inspectMesh([square()])).toMatchObject({
    triangles: 2,
    shells: 1,
    closed: 0,
    holes: 1,
    nonManifold: 0,
    size: [1, 1, 0],
  });
  expect(inspectMesh([square(), square(3)])).toMatchObject({ shells: 2, holes: 2 });
  // Squares that meet in an edge, of different parts, are one shell.
  expect(inspectMesh([square(), square(1)])).toMatchObject({ shells: 1, holes: 1, vertices: 8 });
  const fin: MeshPart = {
    material: 0,
    positions: Float32Array.of(1, 0, 0, 1, 1, 0, 2, 0, 5),
    indices: Uint32Array.of(0, 1, 2),
  };
  expect(inspectMesh([square(), square(1), fin]).nonManifold).toBe(1);
});

test('an open shell is left unchanged, with a note', async () => {
  const { notes } = await uniteShells([square()]);
  expect(notes).toEqual([{ code: 'mesh-no-solid' }, { code: 'mesh-shells-left', count: 1, reason: 'open' }]);
});

test('any number that a layout keeps comes back as near as it can', () => {
  fc.assert(
    fc.property(
      fc.constantFrom('f32', 'f16', 'u8', 'i8', 'u16', 'i16', 'u32', 'unorm8', 'snorm8', 'unorm16', 'snorm16'),
      fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 3, maxLength: 30 }),
      fc.boolean(),
      (as, parts, little) => {
        const lane = { as, at: 2, count: 1 };
        const [low, high] = as.startsWith('f') ? [-1000, 1000] : laneRange(lane);
        const values = parts.map((part) => low + (high - low) * part);
        const rows = { from: 1, stride: 9, count: values.length, little };
        const bytes = new Uint8Array(1 + rows.stride * rows.count);
        writeLane(bytes, lane, rows, values);
        const found = readLane(bytes, lane, rows);
        const step = as.endsWith('norm8')
          ? 1 / 127
          : as.endsWith('norm16')
            ? 1 / 32_767
            : as === 'f16'
              ? 0.5
              : as === 'u32'
                ? 512
                : 1;
        expect(found.every((value, i) => Math.abs(value - values[i]!) <= step)).toBe(true);
        const again = new Uint8Array(bytes.length);
        writeLane(again, lane, rows, found);
        if (as !== 'u32') expect(again).toEqual(bytes);
      },
    ),
  );
});

test.each<[string, string, string, string]>([
  ['a face that names a vertex that is not there', 'bad.obj', 'v 0 0 0\nv 1 0 0\nf 1 2 3\n', 'line 3'],
  ['a vertex of words', 'bad.obj', 'v 0 zero 0\n', 'line 1'],
  ['no faces', 'bad.obj', 'v 0 0 0\n', 'no faces'],
  ['text for STL', 'bad.stl', 'a letter', 'no triangles'],
  [
    'a glTF that refers to another file',
    'bad.gltf',
    '{"asset":{"version":"2.0"},"buffers":[{"uri":"far.bin","byteLength":4}]}',
    'another file',
  ],
  ['a broken GLB', 'bad.glb', 'glTF\u0002\u0000\u0000\u0000', 'cannot be read'],
])('%s is refused with words', async (_, name, text, says) => {
  await expect(async () => readOpenMesh(Buffer.from(text), name)).rejects.toMatchObject({
    fault: expect.objectContaining(
      says.startsWith('line') ? { line: Number(says.slice(5)) } : { what: expect.stringContaining(says) },
    ),
  });
});

test('a joint that the game does not have, too many vertices and a place that is no number are refused', async () => {
  const found = await meshAt('models/crane/crane.mesh');
  const strange: Mesh = {
    ...found.mesh,
    joints: found.mesh.joints.map((joint, i) => ({ ...joint, name: i === 3 ? 'claw' : joint.name })),
  };
  const given = await readOpenMesh(await writeGlb('crane', strange), 'crane.glb');
  await expect(fitMesh(found, given, 'crane.glb')).rejects.toMatchObject({
    fault: {
      what: 'vertices hang on the joint claw, which the game does not have',
      expected: 'one of base, mast, arm, hook',
    },
  });
  const box = await meshAt('models/post_box/post_box.mesh');
  const many = 70_000;
  const large = {
    materials: [],
    joints: [],
    clips: [],
    levels: [[{ material: -1, positions: new Float32Array(many * 3), indices: Uint32Array.of(0, 1, many - 1) }]],
  };
  await expect(fitMesh(box, large, 'large.obj')).rejects.toMatchObject({ fault: { found: '70,000' } });
  const [whole] = found.mesh.levels[0]!.parts;
  const broken = { ...whole!, positions: whole!.positions.with(4, NaN) };
  const glb = await writeGlb('crane', { ...found.mesh, levels: [{ from: 0, parts: [broken] }] });
  await expect(readOpenMesh(glb, 'crane.glb')).rejects.toMatchObject({
    fault: { what: expect.stringContaining('vertex 1') },
  });
});
