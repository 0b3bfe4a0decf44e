/** Whether there is room for what is about to be written. */
import { lstat, statfs } from 'node:fs/promises';
import { dirname } from 'node:path';
import { FaultError } from '../../core/faults';

/** Bytes that are free where a folder lies, or will lie. */
async function freeBytes(folder: string): Promise<number> {
  let existing = folder;
  while ((await lstat(existing).catch(() => undefined)) === undefined) existing = dirname(existing);
  const { bavail, bsize } = await statfs(existing);
  return bavail * bsize;
}

/**
 * @param what the fault says, such as `there is not enough room to build`
 * @throws FaultError `disk-full` when fewer bytes are free
 */
export async function requireSpace(
  folder: string,
  bytes: number,
  { what, hint }: { readonly what: string; readonly hint: string },
): Promise<void> {
  const free = await freeBytes(folder);
  if (free >= bytes) return;
  throw new FaultError({
    code: 'disk-full',
    what,
    file: folder,
    expected: `${bytes.toLocaleString('en')} bytes`,
    found: `${free.toLocaleString('en')} free`,
    hint,
  });
}
