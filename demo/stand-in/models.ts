/** What the game hangs into its scenes: models with all they wear, and the clips that move them. */
import { readClip, readMesh, type Drawn } from './mesh-reader';
import { LoadStop } from './report';
import { readSheet } from './sheet-reader';
import { readTexture, type Texture } from './tex-reader';

/** An entry that won, with its bytes unpacked. */
export interface Loaded {
  readonly file: string;
  readonly bytes: Buffer;
}

/**
 * @param paths of everything that is loaded
 * @param find what has won under a path; undefined when nothing has
 * @param textured is told of every texture and sheet, @param modelled of every model
 * @returns how many models, textures, sheets and clips there are
 * @throws LoadStop
 */
export function loadModels(
  paths: Iterable<string>,
  find: (path: string) => Loaded | undefined,
  textured: (path: string, file: string, texture: Texture) => void,
  modelled: (path: string, file: string, model: Drawn) => void,
): number {
  const sibling = (path: string) => find(path)?.bytes;
  const joints = new Map<string, number>();
  const clips: string[] = [];
  let count = 0;
  const missing = (file: string, entry: string, rule: string, found: string): never => {
    throw new LoadStop({ code: 'MODEL-MISSING', file, entry, offset: 0, rule, found });
  };
  for (const path of paths) {
    const ending = /\.(tex|sheet|mesh|clip)$/.exec(path)?.[1];
    if (ending === undefined) continue;
    count++;
    const { file, bytes } = find(path)!;
    if (ending === 'tex') textured(path, file, readTexture(file, path, bytes, sibling));
    if (ending === 'sheet') textured(path, file, readSheet(file, path, bytes));
    if (ending === 'mesh') {
      const mesh = readMesh(file, path, bytes);
      joints.set(path, mesh.joints);
      modelled(path, file, mesh.near);
      for (const texture of mesh.textures)
        if (find(texture) === undefined) missing(file, path, 'What a model wears is there.', texture);
    }
    if (ending === 'clip') clips.push(path);
  }
  for (const path of clips) {
    const { file, bytes } = find(path)!;
    const clip = readClip(file, path, bytes);
    const model = joints.get(clip.mesh) ?? missing(file, path, 'The model that a clip moves is there.', clip.mesh);
    if (model !== clip.joints)
      missing(file, path, `A clip moves all ${model} joints of its model.`, `${clip.joints} joints`);
  }
  return count;
}
