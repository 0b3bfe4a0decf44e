/** Folders below a root, never reached through a link that leads out of it. */
import { mkdir, realpath } from 'node:fs/promises';
import { dirname, join, sep } from 'node:path';
import { faultOf, FaultError } from '../faults';

/**
 * Makes the folder `path`, relative to `root`, with those on the way to it.
 *
 * @param root a folder that is there
 * @returns where it really lies
 * @throws FaultError `not-allowed` where a link leads out of the root: nothing is made there then
 */
export async function makeBelow(root: string, path: string): Promise<string> {
  const real = await realpath(root);
  const wanted = join(real, path);
  // What is there already is looked at first, so that nothing is made on the other side of a link.
  let there = wanted;
  let known: string | undefined;
  while ((known = await realpath(there).catch(() => undefined)) === undefined) there = dirname(there);
  refuseOutside(real, known, path);
  await mkdir(wanted, { recursive: true }).catch((error: unknown) => {
    throw new FaultError(faultOf(error, path), { cause: error });
  });
  const made = await realpath(wanted);
  refuseOutside(real, made, path);
  return made;
}

function refuseOutside(root: string, real: string, path: string): void {
  const start = root.endsWith(sep) ? root : `${root}${sep}`;
  if (!`${real}${sep}`.startsWith(start))
    throw new FaultError({
      code: 'not-allowed',
      what: 'a link in the folder leads out of it',
      file: path,
      found: real,
    });
}
