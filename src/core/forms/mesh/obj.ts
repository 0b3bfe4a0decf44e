/** Wavefront OBJ: places, texture coordinates, normals and faces as lines of text. */
import { FormatError } from '../../faults';
import type { Mesh, MeshPart } from './mesh';
import type { OpenMesh } from './mesh-model';
import { inMetres } from './space';

/** The most detailed level in metres with y up; each part is a group with its material. */
export function writeObj(name: string, game: Mesh): Uint8Array {
  const mesh = inMetres(game);
  const lines = [`o ${name}`];
  let first = { v: 1, vt: 1, vn: 1 };
  const number = (value: number) => String(Number(value.toPrecision(9)));
  for (const [i, part] of mesh.levels[0]!.parts.entries()) {
    const { positions, normals, uvs, indices } = part;
    lines.push(`g part_${i}`, `usemtl ${mesh.materials[part.material]?.name ?? `material_${part.material}`}`);
    for (let v = 0; v < positions.length; v += 3)
      lines.push(`v ${number(positions[v]!)} ${number(positions[v + 1]!)} ${number(positions[v + 2]!)}`);
    // In OBJ v points up.
    for (let v = 0; uvs !== undefined && v < uvs.length; v += 2)
      lines.push(`vt ${number(uvs[v]!)} ${number(1 - uvs[v + 1]!)}`);
    for (let v = 0; normals !== undefined && v < normals.length; v += 3)
      lines.push(`vn ${number(normals[v]!)} ${number(normals[v + 1]!)} ${number(normals[v + 2]!)}`);
    const corner = (index: number) =>
      `${first.v + index}/${uvs === undefined ? '' : first.vt + index}/${normals === undefined ? '' : first.vn + index}`.replace(
        /\/+$/,
        '',
      );
    for (let t = 0; t < indices.length; t += 3)
      lines.push(`f ${corner(indices[t]!)} ${corner(indices[t + 1]!)} ${corner(indices[t + 2]!)}`);
    const count = positions.length / 3;
    first = {
      v: first.v + count,
      vt: first.vt + (uvs === undefined ? 0 : count),
      vn: first.vn + (normals === undefined ? 0 : count),
    };
  }
  return Buffer.from(`${lines.join('\n')}\n`);
}

/** What the faces of a group that have one material are gathered into. */
interface Gathered {
  readonly material: number;
  readonly corners: number[][];
}

/** @throws FormatError `wrong-kind` with the line that is wrong */
export function readObj(bytes: Uint8Array, file: string): OpenMesh {
  const lists = { v: [] as number[][], vt: [] as number[][], vn: [] as number[][] };
  const materials: string[] = [];
  const groups = new Map<string, Gathered>();
  let material = -1;
  let group = '';
  new TextDecoder()
    .decode(bytes)
    .split(/\r?\n/)
    .forEach((text, i) => {
      const [word, ...rest] = text.trim().split(/\s+/);
      const wrong = (what: string, found: string) =>
        new FormatError({ code: 'wrong-kind', file, line: i + 1, what, found });
      if (word === 'v' || word === 'vt' || word === 'vn') {
        const numbers = rest.slice(0, word === 'vt' ? 2 : 3).map(Number);
        if (numbers.length < (word === 'vt' ? 2 : 3) || !numbers.every(Number.isFinite))
          throw wrong('these are not the numbers of a vertex', text.trim().slice(0, 60));
        lists[word].push(numbers);
      } else if (word === 'usemtl') {
        const name = rest.join(' ');
        material = materials.indexOf(name);
        if (material < 0) material = materials.push(name) - 1;
      } else if (word === 'g' || word === 'o') {
        group = rest.join(' ');
      } else if (word === 'f') {
        const corners = rest.map((corner) =>
          corner.split('/').map((part, kind) => {
            if (part === '') return -1;
            const list = [lists.v, lists.vt, lists.vn][kind]!;
            const given = Number(part);
            const index = given < 0 ? list.length + given : given - 1;
            if (!Number.isInteger(index) || list[index] === undefined)
              throw wrong(
                `a face names ${['a vertex', 'a texture coordinate', 'a normal'][kind]} that is not there`,
                part,
              );
            return index;
          }),
        );
        if (corners.length < 3) throw wrong('a face has three corners or more', text.trim().slice(0, 60));
        const key = `${material} ${group}`;
        const own = groups.get(key) ?? { material, corners: [] };
        groups.set(key, own);
        for (let at = 2; at < corners.length; at++) own.corners.push(corners[0]!, corners[at - 1]!, corners[at]!);
      }
    });
  if (groups.size === 0) throw new FormatError({ code: 'wrong-kind', file, what: 'there are no faces in it' });
  return { materials, joints: [], clips: [], levels: [[...groups.values()].map((one) => partOf(one, lists))] };
}

function partOf({ material, corners }: Gathered, { v, vt, vn }: Record<'v' | 'vt' | 'vn', number[][]>): MeshPart {
  const known = new Map<string, number>();
  const [positions, uvs, normals]: [number[], number[], number[]] = [[], [], []];
  const [hasUvs, hasNormals] = [1, 2].map((kind) => corners.every((corner) => (corner[kind] ?? -1) >= 0));
  const indices = corners.map((corner) => {
    const key = corner.join('/');
    const there = known.get(key);
    if (there !== undefined) return there;
    known.set(key, known.size);
    positions.push(...v[corner[0]!]!);
    if (hasUvs) uvs.push(vt[corner[1]!]![0]!, 1 - vt[corner[1]!]![1]!);
    if (hasNormals) normals.push(...vn[corner[2]!]!);
    return known.size - 1;
  });
  return {
    material,
    positions: Float32Array.from(positions),
    normals: hasNormals ? Float32Array.from(normals) : undefined,
    uvs: hasUvs ? Float32Array.from(uvs) : undefined,
    indices: Uint32Array.from(indices),
  };
}
