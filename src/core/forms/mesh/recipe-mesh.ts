/** Meshes that a recipe presents: rows tell of parts, and a region holds their vertices and triangles. */
import { collect, memoryScratch, type ByteSource } from '../../bytes';
import {
  fieldPlace,
  openArchive,
  planRebuild,
  regionBytes,
  rowFieldPlaces,
  rowValues,
  valueIn,
  volumeBytes,
  type Archive,
  type FieldEdit,
  type PackedVertices,
  type Recipe,
  type Value,
} from '../../recipe';
import {
  boundsOf,
  STILL,
  vertexCount,
  type Mesh,
  type MeshJoint,
  type MeshLevel,
  type MeshPart,
  type Quad,
} from './mesh';
import { readLane, writeLane, type Rows } from './numbers';
import { checkRoom, packedRows } from './packed-rows';
import { checkPart, wrong } from './check-part';
import { readArrays } from './vertex-arrays';

/** Bytes of one mesh at most. */
const MOST_BYTES = 512 << 20;

const INDEX_BYTES = { u8: 1, u16: 2, u32: 4 } as const;

/** A mesh with the file it came from, which it is written back into. */
export interface RecipeMesh {
  readonly mesh: Mesh;
  readonly file: Archive;
}

/**
 * @param files the main file first, then those next to it
 * @throws FormatError for what a file has wrong, with region, field, offset, expected and found
 */
export async function readRecipeMesh(recipe: Recipe, files: readonly ByteSource[]): Promise<RecipeMesh> {
  const file = await openArchive(recipe, files, { limits: { maxWholeBytes: MOST_BYTES } });
  const rule = recipe.mesh;
  if (rule === undefined) throw new RangeError(`${recipe.id} presents no mesh`);
  const materials =
    rule.materials === undefined
      ? []
      : rowValues(file, rule.materials.each, [rule.materials.name, rule.materials.textures ?? rule.materials.name]).map(
          ([name, textures]) => ({
            name: String(name),
            textures: rule.materials!.textures === undefined ? [] : texts(textures),
          }),
        );
  const parts = await readParts(file, materials.length);
  return {
    mesh: {
      unit: typeof rule.unit === 'number' ? rule.unit : Number(valueIn(file, rule.unit)),
      up: rule.up,
      materials,
      joints: readJoints(file),
      levels: levelsOf(file, parts),
    },
    file,
  };
}

function readJoints(file: Archive): MeshJoint[] {
  const rule = file.recipe.mesh!.joints;
  if (rule === undefined) return [];
  return rowValues(file, rule.each, [rule.name, rule.parent, ...rule.at, ...rule.turn]).map(
    ([name, parent, ...numbers], i) => {
      const hangs = Number(parent);
      if (hangs >= i) throw wrong(file, rule.parent.line, `joint ${i}`, 'a joint before it, or none', String(hangs));
      const [x, y, z, ...turn] = numbers.map(Number);
      return {
        name: String(name),
        parent: hangs < 0 ? -1 : hangs,
        at: [x!, y!, z!],
        turn: turn.length === 4 ? (turn as unknown as Quad) : STILL,
      };
    },
  );
}

async function readParts(file: Archive, materials: number): Promise<MeshPart[]> {
  const { packed, arrays } = file.recipe.mesh!;
  return packed === undefined ? readArrays(file, arrays!, materials) : readPacked(file, packed, materials);
}

async function readPacked(file: Archive, rule: PackedVertices, materials: number): Promise<MeshPart[]> {
  const { each, material, vertices, indices } = file.recipe.mesh!.parts;
  const rows = rowValues(file, each, [vertices, indices, ...(material === undefined ? [] : [material])]);
  const { stride, lanes, little } = packedRows(file, rule);
  const bytes = await regionBytes(file, rule.from);
  let at = 0;
  return rows.map(([some, corners, wears], i) => {
    const [count, cornerCount] = [Number(some), Number(corners)];
    const indicesAt = at + count * stride;
    checkRoom(file, rule.from, indicesAt + cornerCount * INDEX_BYTES[rule.index], bytes, `part ${i} is not there`);
    const own: Rows = { from: at, stride, count, little };
    const lane = (of: Parameters<typeof lanes.get>[0]) => {
      const found = lanes.get(of);
      return found === undefined ? undefined : readLane(bytes!, found, own);
    };
    const joints = lane('joints');
    const triangles = readLane(
      bytes!,
      { as: rule.index, at: 0, count: 1 },
      {
        ...{ from: indicesAt, stride: INDEX_BYTES[rule.index], count: cornerCount, little },
      },
    );
    at = Math.ceil((indicesAt + cornerCount * INDEX_BYTES[rule.index]) / rule.align) * rule.align;
    checkPart(file, i, { triangles, count, wears, materials });
    return {
      material: Number(wears ?? 0),
      positions: lane('position') ?? new Float32Array(count * 3),
      normals: lane('normal'),
      tangents: lane('tangent'),
      uvs: lane('uv'),
      colours: lane('colour'),
      joints: joints === undefined ? undefined : Uint16Array.from(joints),
      weights: lane('weights'),
      indices: Uint32Array.from(triangles),
    };
  });
}

function levelsOf(file: Archive, parts: readonly MeshPart[]): MeshLevel[] {
  const rule = file.recipe.mesh!.levels;
  if (rule === undefined) return [{ from: 0, parts }];
  let first = 0;
  const levels = rowValues(file, rule.each, [rule.parts, rule.from ?? rule.parts]).map(([count, from]) => {
    const own = parts.slice(first, first + Number(count));
    first += Number(count);
    return { from: rule.from === undefined ? 0 : Number(from), parts: own };
  });
  if (first !== parts.length || levels.length === 0)
    throw wrong(file, rule.parts.line, 'levels', `${parts.length} parts together`, String(first));
  return levels;
}

/**
 * The file with other vertices and triangles: as many levels and parts as it has, whose rows, bounds and bytes follow.
 *
 * @throws RangeError for other levels or parts, or where the file does not leave a number free
 */
export async function writeRecipeMesh({ mesh, file }: RecipeMesh, levels: readonly MeshLevel[]): Promise<Uint8Array[]> {
  const rule = file.recipe.mesh!;
  const { packed } = rule;
  if (packed === undefined) throw new RangeError('arrays are read and not written');
  if (levels.map(({ parts }) => parts.length).join() !== mesh.levels.map(({ parts }) => parts.length).join())
    throw new RangeError('a mesh keeps its levels and parts');
  const parts = levels.flatMap(({ parts: own }) => own);
  const values: FieldEdit[] = [
    ...rowEdits(file, rule.parts.vertices, parts.map(vertexCount)),
    ...rowEdits(
      file,
      rule.parts.indices,
      parts.map(({ indices }) => indices.length),
    ),
    ...boundsEdits(file, parts),
  ];
  const plan = await planRebuild(
    file,
    {
      replace: new Map(),
      add: [],
      remove: new Set(),
      regions: new Map([[packed.from, packParts(file, packed, parts)]]),
      values,
    },
    { scratch: memoryScratch() },
  );
  return Promise.all(plan.volumes.map((volume) => collect(volumeBytes(volume))));
}

function rowEdits(
  file: Archive,
  formula: Parameters<typeof rowFieldPlaces>[2],
  values: readonly number[],
): FieldEdit[] {
  const places = rowFieldPlaces(file, file.recipe.mesh!.parts.each, formula);
  const found = rowValues(file, file.recipe.mesh!.parts.each, [formula]).map(([value]) => Number(value));
  return values.flatMap((value, i) => {
    if (value === found[i]) return [];
    const place = places[i];
    if (place === undefined) throw new RangeError(`${formula.text} follows a formula`);
    return [{ place, value }];
  });
}

function boundsEdits(file: Archive, parts: readonly MeshPart[]): FieldEdit[] {
  const rule = file.recipe.mesh!.bounds;
  const box = boundsOf(parts);
  if (rule === undefined || box === undefined) return [];
  return (['low', 'high'] as const).flatMap((side) =>
    rule[side].flatMap((formula, axis) => {
      const place = fieldPlace(file, formula);
      const value = box[side][axis as 0 | 1 | 2];
      if (place !== undefined) return [{ place, value }];
      if (Number(valueIn(file, formula)) === value) return [];
      throw new RangeError(`${formula.text} is no field that may be set`);
    }),
  );
}

/** The bytes of all parts: vertices, then triangles, each part filled up. Bytes of a vertex that no attribute fills are 0. */
function packParts(file: Archive, rule: PackedVertices, parts: readonly MeshPart[]): Uint8Array {
  const { stride, lanes, little } = packedRows(file, rule);
  const size = INDEX_BYTES[rule.index];
  const aligned = (bytes: number) => Math.ceil(bytes / rule.align) * rule.align;
  const length = (part: MeshPart) => vertexCount(part) * stride + part.indices.length * size;
  const bytes = new Uint8Array(parts.reduce((sum, part) => aligned(sum + length(part)), 0));
  let at = 0;
  for (const part of parts) {
    const rows: Rows = { from: at, stride, count: vertexCount(part), little };
    const of = {
      position: part.positions,
      normal: part.normals,
      tangent: part.tangents,
      uv: part.uvs,
      colour: part.colours,
      joints: part.joints,
      weights: part.weights,
    };
    for (const [name, lane] of lanes) {
      const values = of[name];
      if (values !== undefined)
        writeLane(bytes, lane, rows, name === 'weights' ? evenWeights(values, lane.as) : values);
    }
    const corners: Rows = { from: at + rows.count * stride, stride: size, count: part.indices.length, little };
    writeLane(bytes, { as: rule.index, at: 0, count: 1 }, corners, part.indices);
    at = aligned(at + length(part));
  }
  return bytes;
}

/** Weights that are 1 together once they are rounded: the largest takes what the others leave. */
function evenWeights(weights: ArrayLike<number>, as: string): Float32Array {
  const out = Float32Array.from(weights);
  const steps = { unorm8: 255, unorm16: 65_535 }[as];
  if (steps === undefined) return out;
  for (let i = 0; i < out.length; i += 4) {
    let most = i;
    let left = steps;
    for (let j = i; j < i + 4; j++) {
      if (out[j]! > out[most]!) most = j;
      left -= Math.round(out[j]! * steps);
    }
    out[most] = (Math.round(out[most]! * steps) + left) / steps;
  }
  return out;
}

/** A list of texts, or one. */
function texts(value: Value): string[] {
  if (typeof value === 'object' && 'at' in value && 'length' in value && typeof value.at === 'function')
    return Array.from({ length: value.length }, (_, i) => String((value.at as (at: number) => Value)(i)));
  return value === undefined || value === '' ? [] : [String(value)];
}
