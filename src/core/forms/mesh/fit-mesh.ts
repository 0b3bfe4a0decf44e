/** A mesh of an open format as the game keeps the one it replaces: its levels, parts, materials, joints and vertex layout. */
import type { Note } from '../../notes';
import { FormatError } from '../../faults';
import { makeNormals, makeTangents } from './directions';
import { triangleCount, trianglesOf, vertexCount, type Mesh, type MeshLevel, type MeshPart } from './mesh';
import { laneRange } from './numbers';
import type { OpenMesh } from './mesh-model';
import { packedRows } from './packed-rows';
import type { RecipeMesh } from './recipe-mesh';
import { simplify } from './simplify';
import { inSpaceOf } from './space';

export interface MeshFitOptions {
  /** Levels of detail that the file does not bring: made from its most detailed one, or kept from the original. */
  readonly levels?: 'made' | 'kept' | undefined;
}

export interface FittedMesh {
  readonly levels: readonly MeshLevel[];
  /** What was done to it. */
  readonly notes: readonly Note[];
}

const MOST_VERTICES = { u8: 0xff, u16: 0xffff, u32: 0xffffffff } as const;

/** What a replacement has to keep, in sentences. */
export function sayMeshExpectation({ mesh, file }: RecipeMesh): string[] {
  const { packed } = file.recipe.mesh!;
  if (packed === undefined)
    return ['Meshes of this form are seen and taken out; to change one, replace it with a file of its own form.'];
  const { lanes } = packedRows(file, packed);
  const names = {
    position: 'places',
    normal: 'normals',
    tangent: 'tangents',
    uv: 'texture coordinates',
    colour: 'colours',
    joints: 'joints',
    weights: 'weights',
  };
  const most = MOST_VERTICES[packed.index];
  return [
    'A mesh as GLB, glTF, OBJ, STL or PLY.',
    `Vertices with ${[...lanes.keys()].map((lane) => names[lane]).join(', ')}. What is missing is worked out.`,
    ...(mesh.joints.length > 0 ? [`Joints of the same names: ${mesh.joints.map(({ name }) => name).join(', ')}.`] : []),
    `Materials of the same names: ${mesh.materials.map(({ name }) => name).join(', ')}.`,
    ...(mesh.levels.length > 1 ? [`${mesh.levels.length} levels of detail; those you do not bring are made.`] : []),
    ...(most < 0xffffffff ? [`Up to ${most.toLocaleString('en')} vertices in a part.`] : []),
  ];
}

/** @throws FormatError `wrong-kind` for what cannot be made to fit, with its place in the file */
export async function fitMesh(
  original: RecipeMesh,
  given: OpenMesh,
  file: string,
  fitOptions: MeshFitOptions = {},
): Promise<FittedMesh> {
  const { mesh } = original;
  if (original.file.recipe.mesh!.packed === undefined)
    throw new FormatError({
      code: 'wrong-kind',
      file,
      what: 'meshes of this form are read and not written',
      hint: 'Replace it with a file of its own form.',
    });
  const notes: Note[] = [];
  const materialOf = matchMaterials(mesh, given, notes);
  const jointOf = matchJoints(mesh, given, file);
  const brought = inSpaceOf(
    mesh,
    given.levels.map((parts) => ({ from: 0, parts })),
  );
  const first = mesh.levels[0]!;
  const levels: MeshLevel[] = [];
  const top = await Promise.all(first.parts.map((part, i) => partFor(first, i, part, brought[0]!.parts)));
  for (const [i, level] of mesh.levels.entries()) {
    const own = brought[i];
    if (own !== undefined) {
      levels.push({
        from: level.from,
        parts: i === 0 ? top : level.parts.map((part, j) => partFor(level, j, part, own.parts)),
      });
      continue;
    }
    if (fitOptions.levels === 'kept') {
      levels.push(level);
      continue;
    }
    const share = trianglesOf(level) / trianglesOf(first);
    const whole = level.parts.map((part, j) => partFor(level, j, part, brought[0]!.parts));
    levels.push({ from: level.from, parts: await Promise.all(whole.map((part) => simplify(part, share))) });
  }
  const missing = mesh.levels.length - brought.length;
  if (missing > 0)
    notes.push(
      fitOptions.levels === 'kept'
        ? { code: 'mesh-levels-kept', count: missing }
        : { code: 'mesh-levels-made', triangles: levels.slice(-missing).map(trianglesOf) },
    );
  if (brought.length > mesh.levels.length)
    notes.push({
      code: 'mesh-levels-left-out',
      count: brought.length - mesh.levels.length,
      original: mesh.levels.length,
    });
  const finished = finish(original, levels, file, notes);
  return { levels: finished, notes: withoutDuplicates(notes) };

  /**
   * What of the file goes into one part: all triangles of its material. Where several parts share one, they go one to one
   * when there are as many, and into the first otherwise.
   */
  function partFor(level: MeshLevel, number: number, part: MeshPart, parts: readonly MeshPart[]): MeshPart {
    const alike = level.parts.flatMap(({ material }, i) => (material === part.material ? [i] : []));
    const all = parts.filter((one) => materialOf(one, level) === part.material);
    const place = alike.indexOf(number);
    const wanted = all.length === alike.length ? [all[place]!] : place === 0 ? all : [];
    if (wanted.length > 0) return skinned(joinParts(wanted, part.material), part);
    notes.push({ code: 'mesh-part-empty', part: number + 1 });
    const corner = part.positions.slice(0, 3);
    const three = <T extends Float32Array | Uint16Array>(values: T | undefined, size: number): T | undefined => {
      if (values === undefined) return undefined;
      const out = new (values.constructor as new (length: number) => T)(3 * size);
      for (let i = 0; i < 3; i++) out.set(values.subarray(0, size), i * size);
      return out;
    };
    return {
      material: part.material,
      positions: three(corner, 3)!,
      normals: three(part.normals, 3),
      tangents: three(part.tangents, 4),
      uvs: three(part.uvs, 2),
      colours: three(part.colours, 4),
      joints: three(part.joints, 4),
      weights: three(part.weights, 4),
      indices: Uint32Array.of(0, 1, 2),
    };
  }

  /** Joints by the numbers of the game; without any, those of the nearest vertex of the original. */
  function skinned(part: MeshPart, like: MeshPart): MeshPart {
    if (mesh.joints.length === 0) return part;
    if (part.joints !== undefined && part.weights !== undefined)
      return {
        ...part,
        joints: part.joints.map((joint, i) => (part.weights![i] === 0 ? 0 : jointOf(joint))),
        weights: evenSums(part.weights),
      };
    notes.push({ code: 'mesh-joints-from-original' });
    return {
      ...part,
      ...nearestJoints(part, first.parts.some(({ joints }) => joints !== undefined) ? first.parts : [like]),
    };
  }
}

function matchMaterials(mesh: Mesh, given: OpenMesh, notes: Note[]) {
  const names = mesh.materials.map(({ name }) => name.toLowerCase());
  return ({ material }: MeshPart, level: MeshLevel): number => {
    const name = given.materials[material];
    const found = name === undefined ? -1 : names.indexOf(name.toLowerCase());
    const used = new Set(level.parts.map((part) => part.material));
    if (found >= 0 && used.has(found)) return found;
    // A level that has fewer parts shows what it leaves out with the first of them.
    const stand = level.parts[0]!.material;
    if (found < 0 && names.length > 1)
      notes.push({
        code: 'mesh-material-unknown',
        material: name ?? null,
        into: mesh.materials[stand]?.name ?? null,
      });
    return stand;
  };
}

function matchJoints(mesh: Mesh, given: OpenMesh, file: string) {
  const numbers = new Map(mesh.joints.map(({ name }, i) => [name.toLowerCase(), i]));
  return (joint: number): number => {
    const name = given.joints[joint]?.name;
    const found = name === undefined ? undefined : numbers.get(name.toLowerCase());
    if (found !== undefined) return found;
    throw new FormatError({
      code: 'wrong-kind',
      file,
      what: `vertices hang on the joint ${name ?? `number ${joint}`}, which the game does not have`,
      expected: `one of ${mesh.joints.map((one) => one.name).join(', ')}`,
      hint: 'Take the mesh out with its joints, and hang yours on these.',
    });
  };
}

function joinParts(parts: readonly MeshPart[], material: number): MeshPart {
  if (parts.length === 1) return { ...parts[0]!, material };
  const joinAll = <T extends Float32Array | Uint16Array>(of: (part: MeshPart) => T | undefined): T | undefined => {
    const all = parts.map(of);
    if (!all.every((one): one is T => one !== undefined)) return undefined;
    const out = new (all[0]!.constructor as new (length: number) => T)(all.reduce((sum, one) => sum + one.length, 0));
    let at = 0;
    for (const one of all) {
      out.set(one, at);
      at += one.length;
    }
    return out;
  };
  const indices = new Uint32Array(parts.reduce((sum, part) => sum + part.indices.length, 0));
  let [at, first] = [0, 0];
  for (const part of parts) {
    for (const index of part.indices) indices[at++] = index + first;
    first += vertexCount(part);
  }
  return {
    material,
    // What one of them lacks is worked out for all: a vertex either has it or has not.
    positions: joinAll((part) => part.positions)!,
    normals: joinAll((part) => part.normals),
    uvs: joinAll((part) => part.uvs),
    colours: joinAll((part) => part.colours),
    joints: joinAll((part) => part.joints),
    weights: joinAll((part) => part.weights),
    indices,
  };
}

function evenSums(weights: Float32Array): Float32Array {
  const out = weights.slice();
  for (let i = 0; i < out.length; i += 4) {
    const sum = out[i]! + out[i + 1]! + out[i + 2]! + out[i + 3]!;
    if (sum > 0) for (let j = i; j < i + 4; j++) out[j]! /= sum;
    else out[i] = 1;
  }
  return out;
}

/** By a grid over the vertices of the original, so that large meshes take no longer than they must. */
function nearestJoints({ positions }: MeshPart, like: readonly MeshPart[]): Pick<MeshPart, 'joints' | 'weights'> {
  const known = like.flatMap((part) => Array.from({ length: vertexCount(part) }, (_, i) => ({ part, i })));
  const count = positions.length / 3;
  const [joints, weights] = [new Uint16Array(count * 4), new Float32Array(count * 4)];
  const at = ({ part, i }: (typeof known)[number], axis: number) => part.positions[i * 3 + axis]!;
  known.sort((a, b) => at(a, 0) - at(b, 0));
  for (let vertex = 0; vertex < count; vertex++) {
    const [x, y, z] = [positions[vertex * 3]!, positions[vertex * 3 + 1]!, positions[vertex * 3 + 2]!];
    let [low, high] = [0, known.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (at(known[middle]!, 0) < x) low = middle + 1;
      else high = middle;
    }
    let best = Infinity;
    let found = known[0]!;
    const look = (one: (typeof known)[number]) => {
      const distance = (at(one, 0) - x) ** 2 + (at(one, 1) - y) ** 2 + (at(one, 2) - z) ** 2;
      if (distance < best) [best, found] = [distance, one];
    };
    for (let i = low; i < known.length && (at(known[i]!, 0) - x) ** 2 < best; i++) look(known[i]!);
    for (let i = low - 1; i >= 0 && (at(known[i]!, 0) - x) ** 2 < best; i--) look(known[i]!);
    joints.set(found.part.joints?.subarray(found.i * 4, found.i * 4 + 4) ?? [], vertex * 4);
    weights.set(found.part.weights?.subarray(found.i * 4, found.i * 4 + 4) ?? [1, 0, 0, 0], vertex * 4);
  }
  return { joints, weights };
}

const withoutDuplicates = (notes: readonly Note[]): Note[] => [
  ...new Map(notes.map((note) => [JSON.stringify(note), note])).values(),
];

/** What the layout of vertices asks for is there and fits, or is worked out. */
function finish(
  { mesh, file: into }: RecipeMesh,
  levels: readonly MeshLevel[],
  file: string,
  notes: Note[],
): MeshLevel[] {
  const rule = into.recipe.mesh!.packed!;
  const { lanes } = packedRows(into, rule);
  const most = MOST_VERTICES[rule.index];
  return levels.map((level, i) => ({
    from: level.from,
    parts: level.parts.map((given, j) => {
      let part = given;
      const count = vertexCount(part);
      if (count > most)
        throw new FormatError({
          code: 'wrong-kind',
          file,
          what: `part ${j + 1} of level ${i + 1} has too many vertices`,
          expected: `up to ${most.toLocaleString('en')}, which is what the game’s triangles can name`,
          found: count.toLocaleString('en'),
          hint: 'Make it simpler, or spread it over the materials of the model.',
        });
      if (triangleCount(part) === 0) throw new RangeError('a part has triangles');
      if (lanes.has('normal') && part.normals === undefined) {
        notes.push({ code: 'mesh-normals-made' });
        part = { ...part, normals: makeNormals(part) };
      }
      if (lanes.has('uv') && part.uvs === undefined) {
        notes.push({ code: 'mesh-no-coordinates' });
        part = { ...part, uvs: new Float32Array(count * 2) };
      }
      if (lanes.has('tangent') && part.tangents === undefined) part = { ...part, tangents: makeTangents(part) };
      if (lanes.has('colour') && part.colours === undefined)
        part = { ...part, colours: new Float32Array(count * 4).fill(1) };
      for (const what of ['position', 'uv'] as const) {
        const lane = lanes.get(what);
        if (lane === undefined || level === mesh.levels[i]) continue;
        const [low, high] = laneRange(lane);
        const values = what === 'uv' ? part.uvs! : part.positions;
        const beyond = values.reduce((sum, value) => sum + (value < low - 1e-6 || value > high + 1e-6 ? 1 : 0), 0);
        if (beyond > 0) notes.push({ code: 'mesh-clamped', count: beyond, what, low, high });
      }
      return part;
    }),
  }));
}
