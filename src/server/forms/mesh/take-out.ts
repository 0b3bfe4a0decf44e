/** Meshes as files of open formats, with the clips that move them. */
import { endingsOf } from '../../recipes';
import { entrySubject } from '../subject';
import { fileOf, isNamedAs, type Outgoing, type OutPlan } from '../take-out';
import { meshFileOf } from './entry-mesh';

export async function planMeshes({ gameId, order, paths }: Outgoing): Promise<OutPlan | undefined> {
  const { meshes: as, levels: allLevels, scale, solid } = order;
  if (as === undefined) return undefined;
  const endings = await endingsOf(gameId, 'clip');
  const isClip = (path: string) => endings.has(path.slice(path.lastIndexOf('.') + 1).toLowerCase());
  const clips = order.clips === 'taken' ? paths : order.clips === 'all';
  return {
    as,
    // A clip goes out with a mesh, and has no form of its own but in glTF.
    converts: (entry) => !isNamedAs(entry, as) && (as === 'glb' || !isClip(entry.path)),
    suffixes: [''],
    choices: [order.clips, allLevels, scale, solid],
    async *files({ archive, n }, signal) {
      const { path, bytes } = await entrySubject(archive, n);
      const choice = { as, clips, textures: 'inside', allLevels, scale, solid } as const;
      const file = await meshFileOf(gameId, { path, bytes: await bytes() }, choice, signal);
      yield fileOf(file.bytes, file.notes);
    },
  };
}
