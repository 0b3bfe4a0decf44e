/** Meshes, and the clips that move them. */
import { fitMeshFile, trianglesOf, type RecipeClip } from '../../../core/forms/mesh';
import { MESH_OUT } from '../../../core/forms/mesh/out-formats';
import { smallWebp } from '../../../core/forms/picture';
import { formRecipeOf } from '../../recipes';
import type { Glance } from '../../shapes';
import type { DroppedFile, Fitted, ServerForm, Subject } from '../form';
import { clipOfFile, drawingOf, meshFacts, meshFileOf, meshOfClip, meshOfFile } from './entry-mesh';
import { planMeshes } from './take-out';

export const meshForm: ServerForm = {
  kind: 'mesh',
  is: ({ kind }) => kind === 'mesh',
  async read({ gameId, path, bytes }) {
    const { facts, expects } = await meshFacts(gameId, { path, bytes: await bytes() });
    const triangles = facts.inspection?.triangles;
    return { facts, expects, ...(triangles === undefined ? {} : { detail: { triangles } }) };
  },
  glance,
  /** A mesh as it is at rest; a clip as the mesh it moves. */
  async thumbnail({ gameId, path, bytes }, { width, height }) {
    const file = { path, bytes: await bytes() };
    const clip = await clipOfFile(gameId, file);
    const { mesh } = clip === undefined ? await meshOfFile(gameId, file) : await meshOfClip(gameId, clip);
    return smallWebp({ width, height, rgba: await drawingOf(mesh, width, height) }, width, height);
  },
  fit,
  planOut: planMeshes,
  async asFile({ gameId, path, bytes }, format, signal) {
    const as = MESH_OUT.find((one) => one === format);
    const choice = { clips: true, textures: 'inside' } as const;
    return as === undefined ? undefined : meshFileOf(gameId, { path, bytes: await bytes() }, { as, ...choice }, signal);
  },
};

async function glance({ gameId, path, bytes }: Subject): Promise<Glance> {
  const file = { path, bytes: await bytes() };
  // Of a clip nothing is counted: it is shown as the mesh it moves.
  const isClip = (await clipOfFile(gameId, file)) !== undefined;
  const triangles = isClip ? 0 : trianglesOf((await meshOfFile(gameId, file)).mesh.levels[0]!);
  const summary = `${triangles.toLocaleString('en')} ${triangles === 1 ? 'triangle' : 'triangles'}`;
  return { summary: isClip ? '' : summary, shows: { is: 'thumbnail', webp: null } };
}

async function fit({ gameId, path, bytes }: Subject, dropped: DroppedFile): Promise<Fitted> {
  const original = {
    path,
    bytes: await bytes(),
    recipeOf: (of: Uint8Array, form: 'mesh' | 'clip') => formRecipeOf(gameId, of.subarray(0, 512), path, form),
    meshOf: async (clip: RecipeClip) => (await meshOfClip(gameId, clip)).mesh,
  };
  const made = await fitMeshFile(original, dropped.bytes, dropped.fileName, dropped.fitOptions);
  return { files: [{ path, bytes: made.bytes }], notes: made.notes };
}
