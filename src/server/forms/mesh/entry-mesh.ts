/** Entries that are meshes or clips: in an open format, or as a recipe presents them. */
import { QueryTypes } from 'sequelize';
import { bufferSource } from '../../../core/bytes';
import { FaultError } from '../../../core/faults';
import {
  drawOne,
  inspectParts,
  isNormalMap,
  meshFile,
  meshName,
  readMeshFile,
  readRecipeClip,
  sayMeshExpectation,
  trianglesOf,
  verticesOf,
  type DrawOrder,
  type GltfOptions,
  type Inspection,
  type Mesh,
  type MeshClip,
  type MeshFile,
  type MeshFileOrder,
  type MeshOfFile,
  type RecipeClip,
} from '../../../core/forms/mesh';
import { database } from '../../database';
import type { MeshFacts } from '../../shapes';
import { entryBytes, findWinner } from '../../content';
import { endingsOf, formRecipeOf } from '../../recipes';
import { inThread } from '../../threads';
import { withFoundTextures } from './mesh-textures';
import { pictureFileAs, pictureOf } from '../picture';
import { entrySubject } from '../subject';

/** Fewer triangles are worked on sooner than they are sent to a thread and back. */
const FEW = 20_000;
/** Clips next to a mesh that are looked at. */
const MOST_CLIPS = 200;

interface MeshBytes {
  /** In the game. */
  readonly path: string;
  readonly bytes: Uint8Array;
}

/** @throws FormatError `wrong-kind` when it is no mesh, and what reading it says */
export async function meshOfFile(gameId: number, { path, bytes }: MeshBytes): Promise<MeshOfFile> {
  return readMeshFile({ path, bytes }, await formRecipeOf(gameId, bytes.subarray(0, 512), path, 'mesh'));
}

/** A clip; undefined when no recipe presents the bytes as one. */
export async function clipOfFile(gameId: number, { path, bytes }: MeshBytes): Promise<RecipeClip | undefined> {
  const recipe = await formRecipeOf(gameId, bytes.subarray(0, 512), path, 'clip');
  return recipe === undefined ? undefined : readRecipeClip(recipe, bufferSource(bytes, path));
}

/** The mesh that a clip moves. @throws FaultError `volume-missing` when the game does not have it */
export async function meshOfClip(gameId: number, { mesh, file }: RecipeClip): Promise<{ path: string; mesh: Mesh }> {
  const winner = mesh === undefined ? undefined : await findWinner(gameId, mesh).catch(() => undefined);
  if (winner === undefined)
    throw new FaultError({
      code: 'volume-missing',
      entry: file.source.name,
      what: 'the mesh that the clip moves is not there',
      ...(mesh === undefined ? {} : { expected: mesh }),
      hint: 'It may be in an archive that is locked, or in one that is not here.',
    });
  const { bytes } = await entryBytes(winner.archive, winner.n);
  return { path: mesh!, mesh: (await meshOfFile(gameId, { path: mesh!, bytes })).mesh };
}

/** The clips in the folder of a mesh that name it; those that cannot be read are left out. */
export async function clipsOfMesh(gameId: number, path: string): Promise<{ path: string; clip: MeshClip }[]> {
  const endings = await endingsOf(gameId, 'clip');
  if (endings.size === 0) return [];
  const folder = path.slice(0, path.lastIndexOf('/') + 1);
  const rows = await database().query<{ archive: number; n: number; path: string }>(
    `select archive_id as archive, n, path from entries
     where game_id = :gameId and wins and not deleted and folder = :folder and lower(regexp_replace(name, '^.*\\.', '')) in (:endings)
     order by path limit :most`,
    {
      replacements: { gameId, folder: folder.replace(/\/$/, ''), endings: [...endings], most: MOST_CLIPS },
      type: QueryTypes.SELECT,
    },
  );
  const found: { path: string; clip: MeshClip }[] = [];
  for (const row of rows) {
    const { bytes } = await entryBytes(row.archive, row.n);
    const read = await clipOfFile(gameId, { path: row.path, bytes }).catch(() => undefined);
    if (read?.mesh === path) found.push({ path: row.path, clip: read.clip });
  }
  return found;
}

export interface MeshChoice extends Omit<GltfOptions, 'clips' | 'textures' | 'links'> {
  readonly as: MeshFileOrder['as'];
  readonly scale?: number;
  readonly solid?: boolean;
  /** Clips that name the mesh go along; those of these paths alone, when a set is given. */
  readonly clips?: boolean | ReadonlySet<string>;
  /** Its pictures go along: in the file, or as addresses for a page. */
  readonly textures?: 'inside' | 'linked';
}

/** For a page to draw: with all levels of detail, the clips that move it, and the addresses of its pictures. */
export const WEB_PREVIEW_OPTIONS = { as: 'glb', allLevels: true, clips: true, textures: 'linked' } as const;

/** A mesh, or the mesh of a clip with that clip, as a file in an open format. */
export async function meshFileOf(
  gameId: number,
  given: MeshBytes,
  { as, scale, solid, clips = false, textures, allLevels }: MeshChoice,
  signal: AbortSignal = new AbortController().signal,
): Promise<MeshFile & { readonly mime: string; readonly path: string }> {
  const clip = await clipOfFile(gameId, given);
  const from =
    clip === undefined ? { path: given.path, ...(await meshOfFile(gameId, given)) } : await meshOfClip(gameId, clip);
  const facts = { mime: MIMES[as], path: `${given.path.replace(/\.[^./]*$/, '')}.${as}` };
  if (as === 'glb' && 'is' in from && from.is === 'open' && given.path.endsWith('.glb'))
    return { ...facts, bytes: given.bytes, notes: [] };
  const own = clip === undefined && clips !== false ? await clipsOfMesh(gameId, from.path) : [];
  const mesh = await withFoundTextures(gameId, from.mesh);
  const order: MeshFileOrder = {
    ...{ name: meshName(given.path), mesh, as },
    ...(scale === undefined ? {} : { scale }),
    ...(solid === undefined ? {} : { solid }),
    ...(allLevels === undefined ? {} : { allLevels }),
    clips:
      clip !== undefined
        ? [clip.clip]
        : own.filter(({ path }) => typeof clips === 'boolean' || clips.has(path)).map((one) => one.clip),
    ...(await texturesOf(gameId, mesh, as === 'glb' ? textures : undefined, signal)),
  };
  const made = await onThread('meshFile', meshFile, order, from.mesh, signal);
  return { ...facts, ...made };
}

/** Pictures that a page shows as they are. */
const SHOWN = /\.(png|jpe?g|webp|gif)$/i;

const MIMES = { glb: 'model/gltf-binary', obj: 'text/plain', stl: 'model/stl' } as const;

async function texturesOf(
  gameId: number,
  { materials }: Mesh,
  how: MeshChoice['textures'],
  signal: AbortSignal,
): Promise<Pick<GltfOptions, 'textures' | 'links'>> {
  if (how === undefined) return {};
  const inside = new Map<string, Uint8Array>();
  const links = new Map<string, string>();
  for (const path of new Set(materials.flatMap(({ textures }) => textures))) {
    const winner = await findWinner(gameId, path).catch(() => undefined);
    if (winner === undefined) continue;
    const address = `/api/games/${gameId}/entries/${winner.archive}/${winner.n}`;
    if (how === 'linked')
      links.set(path, `${address}/${SHOWN.test(path) ? 'bytes' : 'as/png'}${isNormalMap(path) ? '?normals' : ''}`);
    else {
      // A picture that cannot be read leaves the mesh without it.
      const png = await pngOf(winner.archive, winner.n, signal).catch(() => undefined);
      if (png !== undefined) inside.set(path, png);
    }
  }
  return how === 'linked' ? { links } : { textures: inside };
}

async function pngOf(archive: number, n: number, signal: AbortSignal): Promise<Uint8Array> {
  const subject = await entrySubject(archive, n);
  if (subject.mime === 'image/png') return subject.bytes();
  return (await pictureFileAs(await pictureOf(subject), 'png', signal)).bytes;
}

/** Large meshes are worked on in a thread, by the name of a function there, so that others need not wait. */
async function onThread<Order extends object, Result>(
  name: string,
  work: (order: Order) => Result | Promise<Result>,
  order: Order,
  mesh: Mesh,
  signal: AbortSignal = new AbortController().signal,
): Promise<Result> {
  const triangles = mesh.levels.reduce((sum, level) => sum + trianglesOf(level), 0);
  return triangles <= FEW ? work(order) : inThread<Order, Result>(name, order, signal, 'mesh-thread');
}

export const inspectionOf = (mesh: Mesh): Promise<Inspection> =>
  onThread('inspectParts', inspectParts, { parts: mesh.levels[0]?.parts ?? [] }, mesh);

/** The pixels of a small picture of it. */
export function drawingOf(mesh: Mesh, width: number, height: number): Promise<Uint8Array> {
  const order: DrawOrder = { mesh, width, height, colour: OLIVE };
  return onThread('drawOne', drawOne, order, mesh);
}

/** The colour that meshes have everywhere, as bright as it is where light falls on it. */
const OLIVE = [139, 148, 92] as const;

/** What there is to know of a mesh, or of a clip and the mesh it moves. @throws what reading it says */
export async function meshFacts(gameId: number, given: MeshBytes): Promise<{ facts: MeshFacts; expects: string[] }> {
  const clip = await clipOfFile(gameId, given);
  if (clip !== undefined) {
    const { rate, frames, loops, joints } = clip.clip;
    const moves = await meshOfClip(gameId, clip).catch(() => undefined);
    const facts: MeshFacts = {
      ...{ form: 'mesh', levels: [], inspection: null, millimetres: null, joints: [], materials: [], clips: [] },
      clip: { mesh: clip.mesh ?? null, there: moves !== undefined, rate, frames, loops, joints },
    };
    return { facts, expects: sayClipExpectation(clip, moves?.mesh) };
  }
  const found = await meshOfFile(gameId, given);
  const mesh = await withFoundTextures(gameId, found.mesh);
  const inspection = await inspectionOf(mesh);
  const [clips, materials] = await Promise.all([
    clipsOfMesh(gameId, given.path),
    Promise.all(
      mesh.materials.map(async ({ name, textures }) => ({
        name,
        textures: await Promise.all(
          textures.map(async (path) => ({
            path,
            there: (await findWinner(gameId, path).catch(() => undefined)) !== undefined,
          })),
        ),
      })),
    ),
  ]);
  return {
    facts: {
      form: 'mesh',
      levels: mesh.levels.map((level) => ({
        from: level.from,
        parts: level.parts.length,
        triangles: trianglesOf(level),
        vertices: verticesOf(level),
      })),
      inspection,
      millimetres: inspection.size.map((side) => side * mesh.unit * 1000) as [number, number, number],
      joints: mesh.joints.map(({ name }) => name),
      materials,
      clips: clips.map(({ path, clip: { name } }) => ({ path, name })),
      clip: null,
    },
    expects:
      found.is === 'recipe'
        ? sayMeshExpectation(found.read)
        : ['A mesh in the same format: nothing is known of what else the game expects of it.'],
  };
}

function sayClipExpectation({ clip, mesh }: RecipeClip, moved: Mesh | undefined): string[] {
  return [
    'A GLB or glTF with an animation of the same joints.',
    `Sampled at ${clip.rate} frames a second; the original has ${clip.frames}.`,
    ...(moved === undefined ? [] : [`Joints: ${moved.joints.map(({ name }) => name).join(', ')}.`]),
    ...(mesh === undefined ? [] : [`It moves ${mesh}.`]),
  ];
}
