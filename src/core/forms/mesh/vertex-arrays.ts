/** Meshes whose parts have an array for each kind of numbers. */
import { FormatError } from '../../faults';
import { rowValues, type Archive, type Value, type VertexArrays } from '../../recipe';
import { checkPart } from './check-part';
import type { MeshPart } from './mesh';
import { laneBytes, readLane, type Lane } from './numbers';
import { attributeCount } from './packed-rows';

/** @throws FormatError `cut-short` for an array that does not lie in the bytes of its part, and what else is wrong in it */
export async function readArrays(file: Archive, rule: VertexArrays, materials: number): Promise<MeshPart[]> {
  const { each, material, vertices, indices } = file.recipe.mesh!.parts;
  const arrays = [...rule.vertices, rule.index];
  const asked = [vertices, indices, ...arrays.flatMap(({ bytes, at }) => [bytes, at])];
  const rows = rowValues(file, each, [...asked, ...(material === undefined ? [] : [material])]);
  return Promise.all(
    rows.map(async ([some, corners, ...rest], part) => {
      const count = Number(some);
      /** @param i which of the arrays */
      const numbers = async (i: number, lane: Lane, stride: number, length: number, what: string) => {
        if (length === 0) return new Float32Array(0);
        const bytes = await bytesOf(file, rest[i * 2]);
        const from = Number(rest[i * 2 + 1]);
        const end = from + (length - 1) * stride + laneBytes(lane);
        if (!(Number.isSafeInteger(end) && from >= 0 && end <= bytes.length))
          throw new FormatError({
            code: 'cut-short',
            file: file.source.name,
            recipe: file.recipe.id,
            line: arrays[i]!.bytes.line,
            what: `${what} of part ${part} are not in its bytes`,
            expected: `${end.toLocaleString('en')} bytes`,
            found: bytes.length.toLocaleString('en'),
          });
        return readLane(bytes, lane, { from, stride, count: length, little: rule.little });
      };
      const of = new Map<string, Float32Array>();
      for (const [i, { of: name, as, stride }] of rule.vertices.entries()) {
        const lane = { as, at: 0, count: attributeCount(name) };
        of.set(name, await numbers(i, lane, stride, count, `the numbers for ${name}`));
      }
      const index: Lane = { as: rule.index.as, at: 0, count: 1 };
      const triangles = Uint32Array.from(
        await numbers(rule.vertices.length, index, laneBytes(index), Number(corners), 'the triangles'),
      );
      const wears = material === undefined ? undefined : rest.at(-1);
      checkPart(file, part, { triangles, count, wears, materials });
      if (rule.isClockwise) turnAround(triangles);
      const joints = of.get('joints');
      return {
        material: Number(wears ?? 0),
        positions: of.get('position') ?? new Float32Array(count * 3),
        normals: of.get('normal'),
        tangents: of.get('tangent'),
        uvs: of.get('uv'),
        colours: of.get('colour'),
        joints: joints === undefined ? undefined : Uint16Array.from(joints),
        weights: of.get('weights'),
        indices: triangles,
      };
    }),
  );
}

/** Bytes of a field: those that are in memory, or a stretch of the file. */
async function bytesOf({ source }: Archive, value: Value): Promise<Uint8Array> {
  if (value instanceof Uint8Array) return value;
  const isStretch = typeof value === 'object' && 'at' in value && typeof value.at === 'number' && 'length' in value;
  return isStretch ? source.read(value.at as number, value.length as number) : new Uint8Array(0);
}

function turnAround(triangles: Uint32Array): void {
  for (let i = 0; i + 2 < triangles.length; i += 3)
    [triangles[i + 1], triangles[i + 2]] = [triangles[i + 2]!, triangles[i + 1]!];
}
