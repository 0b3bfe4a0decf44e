/** Files of entries under a folder, each written whole or not at all. */
import { link, lstat, mkdir, rename, unlink } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import { bytesIfSame, createFile, makeBelow, removeTemporary } from '../../core/bytes/node';
import { faultOf, FaultError } from '../../core/faults';
import { readEntry } from '../../core/recipe';
import { withArchive } from '../games';
import type { TakeOutOrder } from '../shapes';
import type { Destination } from './destination';
import type { OutgoingEntry } from '../shapes';
import { Taken } from './taken';
import { gameFolders, refuseGames, targetFolder } from './target';

/** What happens to files that are there: to all, and to single ones by their paths below the folder. */
type Existing = Pick<TakeOutOrder, 'existing'> & Partial<Pick<TakeOutOrder, 'decisions'>>;

/**
 * @param token of the temporary names: what the run left half written before it was killed goes
 * @throws FaultError `not-allowed` for a folder outside of the roots, or one of a game */
export async function intoFolder(
  gameId: number,
  folder: string,
  { existing, decisions = {}, token }: Existing & { readonly token: string },
): Promise<Destination> {
  const to = await targetFolder(folder);
  const taken = await Taken.read(gameId, to);
  const games = await gameFolders();
  /** Folders without what was left half written, or on the way there. */
  const tidy = new Map<string, Promise<void>>();
  /** The path under `to`, made sure that no link in between leads out of it, and that it is in no game's folder. */
  const safeTarget = async (path: string) => {
    await mkdir(to, { recursive: true }).catch((error: unknown) => {
      throw new FaultError(faultOf(error, to), { cause: error });
    });
    refuseGames(games, dirname(join(to, path)), path);
    const below = await makeBelow(to, dirname(path));
    let tidied = tidy.get(below);
    if (tidied === undefined) tidy.set(below, (tidied = removeTemporary(below, token)));
    await tidied;
    return join(below, basename(path));
  };
  return {
    folder: to,
    isKnown: async (path, mark) => taken.isThere(await safeTarget(path), mark),
    async isThere(path, entry, mark) {
      const target = await safeTarget(path);
      const isSame = await holdsEntry(target, entry);
      // A run that was killed did not get to note all it wrote.
      if (isSame) await taken.note(target, mark);
      return isSame;
    },
    async write(path, chunks, mark = '') {
      const target = await safeTarget(path);
      const standing = await taken.standing(target);
      const decision = decisions[path] ?? existing;
      if (standing === 'strange' && decision === 'keep') {
        const bytes = await bytesIfSame(target, chunks);
        // A run that was killed did not get to note all it wrote.
        if (bytes !== undefined) await taken.note(target, mark);
        return bytes ?? 'kept';
      }
      if (standing === 'strange' && decision === 'aside') await moveAside(target);
      const mayReplace = standing === 'ours' || decision === 'replace';
      const sink = await createFile(target, { durable: false, replace: mayReplace, token });
      let bytes = 0;
      try {
        for await (const chunk of chunks) {
          await sink.write(chunk);
          bytes += chunk.length;
        }
        await sink.close();
      } catch (error) {
        await sink.abandon();
        throw error;
      }
      await taken.note(target, mark);
      return bytes;
    },
    close: () => taken.keep(),
    abandon: () => taken.keep(),
  };
}

/** What `link` says of a folder, and where the file system has no hard links. */
const NO_LINK = new Set(['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS']);

/** Gives a file or a folder another name next to it: `cabin (mine).png`, then `cabin (mine 2).png`. */
async function moveAside(target: string): Promise<void> {
  const ending = extname(target);
  const stem = target.slice(0, target.length - ending.length);
  for (let n = 1; ; n++) {
    const free = `${stem} (mine${n === 1 ? '' : ` ${n}`})${ending}`;
    try {
      // A second name first, so that nothing that has come there meanwhile is lost.
      await link(target, free);
      return await unlink(target);
    } catch (error) {
      const { code = '' } = error as { code?: string };
      if (code === 'EEXIST') continue;
      if (!NO_LINK.has(code)) throw new FaultError(faultOf(error, free), { cause: error });
      if ((await lstat(free).catch(() => undefined)) === undefined) return rename(target, free);
    }
  }
}

async function holdsEntry(target: string, { archive, n, size }: OutgoingEntry): Promise<boolean> {
  const there = await lstat(target).catch(() => undefined);
  if (there?.isFile() !== true || there.size !== size) return false;
  return withArchive(archive, async (opened) => (await bytesIfSame(target, readEntry(opened, n))) !== undefined);
}
