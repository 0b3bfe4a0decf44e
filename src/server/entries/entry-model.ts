/** Meshes for a page to draw. */
import { meshFileOf, type MeshChoice } from '../forms';
import { pathInGameOf } from '../games';
import { entryBytes } from '../content';

/** With all levels of detail, the clips that move it, and the addresses of its pictures. */
export const WEB_PREVIEW_OPTIONS = { as: 'glb', allLevels: true, clips: true, textures: 'linked' } as const;

/** @throws FormatError `wrong-kind` when the entry is no mesh, and what reading it says */
export async function entryMeshAs(
  gameId: number,
  archiveId: number,
  n: number,
  choice: MeshChoice,
  signal: AbortSignal,
) {
  const [{ bytes }, path] = await Promise.all([entryBytes(archiveId, n), pathInGameOf(archiveId, n)]);
  return meshFileOf(gameId, { path, bytes }, choice, signal);
}

export const entryModel = (gameId: number, archiveId: number, n: number, signal: AbortSignal) =>
  entryMeshAs(gameId, archiveId, n, WEB_PREVIEW_OPTIONS, signal);
