import { readdir, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { faultOf, FaultError } from '../../core/faults';
import { env } from '../env';
import type { PlacesAnswer } from '../shapes';
import { isOwnPlace, underRoots } from './roots';

const MAX_FOLDERS = 2_000;

/** The folders one can choose: the allowed roots, or what is in a folder under one of them. */
export async function listPlaces(under: string): Promise<PlacesAnswer> {
  const demo = join(env().home, 'demo', 'gondola-post');
  const hasDemo = (await stat(demo).catch(() => undefined))?.isDirectory() === true;
  const common = { demo: hasDemo ? demo : null, out: join(env().home, 'out'), sent: join(env().home, 'games') };
  if (under === '') return { ...common, folder: null, parent: null, folders: [...env().roots], files: 0 };
  const folder = await underRoots(under);
  const names = await readdir(folder, { withFileTypes: true }).catch((error: unknown) => {
    throw new FaultError(faultOf(error, under), { cause: error });
  });
  const below = names
    .filter((name) => name.isDirectory() && !name.name.startsWith('.'))
    .map((name) => join(folder, name.name));
  const own = await Promise.all(below.map(isOwnPlace));
  const folders = below.filter((_, i) => !own[i]);
  const parent = await underRoots(dirname(folder)).catch(() => null);
  return {
    ...common,
    folder,
    parent,
    folders: folders.sort().slice(0, MAX_FOLDERS),
    files: names.filter((name) => name.isFile()).length,
  };
}
