/** Which files may be reached at all. */
import { realpath } from 'node:fs/promises';
import { dirname, isAbsolute, join, relative, resolve, sep } from 'node:path';
import { FaultError } from '../../core/faults';
import { env } from '../env';

/**
 * The path with all links followed, when it lies under an allowed root. The last parts of the path need not exist yet.
 *
 * @throws FaultError `not-allowed` when the path, or where a link leads, is outside
 */
export async function underRoots(path: string): Promise<string> {
  const wanted = resolve(env().home, '..', path);
  const real = await realOf(wanted);
  for (const root of env().roots) {
    const realRoot = await realOf(root);
    const within = relative(realRoot, real);
    if (within === '' || (!within.startsWith(`..${sep}`) && within !== '..' && !isAbsolute(within))) return real;
  }
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
    return join(await realOf(parent), path.slice(parent.length).replace(/^[/\\]+/, ''));
  }
}
