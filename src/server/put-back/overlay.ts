/** Built files laid next to a game folder as links, so that a loader takes both without the game being copied. */
import { mkdir, mkdtemp, rm, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import type { BuildFile } from '../shapes';
import { blobFile } from '../storage';

/** @param work gets the folder with the built files, and one to write into; both are gone afterwards */
export async function withOverlay<T>(
  files: readonly BuildFile[],
  work: (build: string, room: string) => Promise<T>,
): Promise<T> {
  const room = await mkdtemp(join(tmpdir(), 'zero-latch-test-run-'));
  try {
    const build = join(room, 'build');
    await mkdir(build);
    for (const file of files) {
      await mkdir(dirname(join(build, file.name)), { recursive: true });
      await symlink(await blobFile(file.sha256), join(build, file.name));
    }
    return await work(build, room);
  } finally {
    await rm(room, { recursive: true, force: true });
  }
}
