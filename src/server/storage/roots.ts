/** Which files may be reached at all. */
import { realpath } from 'node:fs/promises';
import { dirname, isAbsolute, join, relative, resolve, sep } from 'node:path';
import { FaultError } from '../../core/faults';
import { env } from '../env';

/** Folders of the home that hold nothing of the application's own: games that it made or was sent, and what it took out. */
const OPEN_FOLDERS = ['demo', 'games', 'out'];

/** True for a place in the application's own folder: its keys, its database and its settings are not a game. */
export async function isOwnPlace(real: string): Promise<boolean> {
  const home = await realOf(env().home);
  return (
    isBelow(home, real) && !OPEN_FOLDERS.some((name) => isBelow(join(/* turbopackIgnore: true */ home, name), real))
  );
}

/** True for the folder itself as well. */
export function isBelow(folder: string, path: string): boolean {
  const within = relative(folder, path);
  return within === '' || (!within.startsWith(`..${sep}`) && within !== '..' && !isAbsolute(within));
}

/**
 * The path with all links followed, when it lies under an allowed root. The last parts of the path need not exist yet.
 * The application's own folder is under no root, whatever the roots say.
 *
 * @throws FaultError `not-allowed` when the path, or where a link leads, is outside
 */
export async function underRoots(path: string): Promise<string> {
  const wanted = resolve(env().home, '..', path);
  const real = await realOf(wanted);
  if (await isOwnPlace(real))
    throw new FaultError({
      code: 'not-allowed',
      what: 'the folder is the one where the application keeps its own files',
      file: path,
      hint: 'Choose another folder.',
    });
  for (const root of env().roots) if (isBelow(await realOf(root), real)) return real;
  throw new FaultError({
    code: 'not-allowed',
    what: 'the folder is outside of what this server may touch',
    file: path,
    expected: `a place under ${env().roots.join(' or ')}`,
    ...(real === wanted ? {} : { found: `a link to ${real}` }),
    hint: 'Add it to ZERO_LATCH_ROOTS and start again.',
  });
}

async function realOf(path: string): Promise<string> {
  try {
    return await realpath(path);
  } catch (error) {
    const parent = dirname(path);
    if ((error as { code?: string }).code !== 'ENOENT' || parent === path) throw error;
    return join(/* turbopackIgnore: true */ await realOf(parent), path.slice(parent.length).replace(/^[/\\]+/, ''));
  }
}
