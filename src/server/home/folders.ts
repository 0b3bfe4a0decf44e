/** How much the folders of the home hold. */
import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { faultOf, FaultError } from '../../core/faults';

export interface Held {
  readonly bytes: number;
  readonly files: number;
}

/**
 * Everything below a folder; links are counted as nothing and not followed. Nothing where there is no such folder.
 *
 * @param counted called after each file; what it throws ends the count
 */
export async function heldBelow(folder: string, counted: () => void = () => {}): Promise<Held> {
  let bytes = 0;
  let files = 0;
  for await (const file of filesBelow(folder)) {
    bytes += file.bytes;
    files++;
    counted();
  }
  return { bytes, files };
}

/** Every file below a folder, with its size and when it was last written. */
export async function* filesBelow(folder: string): AsyncGenerator<{ path: string; bytes: number; written: Date }> {
  const entries = await readdir(folder, { withFileTypes: true }).catch((error: unknown) => {
    const { code } = error as { code?: string };
    // It may have gone meanwhile, as files of the database do.
    if (code === 'ENOENT' || code === 'ENOTDIR' || code === 'EACCES') return [];
    throw new FaultError(faultOf(error, folder), { cause: error });
  });
  for (const entry of entries) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* filesBelow(path);
    else if (entry.isFile()) {
      const facts = await stat(path).catch(() => undefined);
      if (facts !== undefined) yield { path, bytes: facts.size, written: facts.mtime };
    }
  }
}
