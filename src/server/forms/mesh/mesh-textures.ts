/** The pictures that a mesh wears, as the game has them. */
import { QueryTypes } from 'sequelize';
import type { Mesh } from '../../../core/forms/mesh';
import { PICTURE_ENDINGS } from '../../../core/forms/picture';
import { database } from '../../database';

/** Engines look for a picture under these endings, whatever the mesh says. */
const ENDINGS = ['tga', 'jpg', ...PICTURE_ENDINGS];

/** The mesh with the paths of pictures that are in the game; a path that none of them fits stays as it is. */
export async function withFoundTextures(gameId: number, mesh: Mesh): Promise<Mesh> {
  const paths = [...new Set(mesh.materials.flatMap(({ textures }) => textures))];
  if (paths.length === 0) return mesh;
  const candidates = new Map(paths.map((path) => [path, candidatesFor(path)]));
  const rows = await database().query<{ path: string }>(
    'select path from entries where game_id = $1 and wins and not deleted and path = any($2)',
    { bind: [gameId, [...candidates.values()].flat()], type: QueryTypes.SELECT },
  );
  const there = new Set(rows.map(({ path }) => path));
  const found = (path: string) => candidates.get(path)!.find((one) => there.has(one)) ?? path;
  return {
    ...mesh,
    materials: mesh.materials.map((material) => ({ ...material, textures: material.textures.map(found) })),
  };
}

/** The path as it is, with `/` between folders, and with the other endings. */
function candidatesFor(path: string): string[] {
  const plain = path.replaceAll('\\', '/').replace(/^\/+/, '');
  const stem = plain.replace(/\.[^./]*$/, '');
  return [...new Set([path, plain, ...ENDINGS.map((ending) => `${stem}.${ending}`)])];
}
