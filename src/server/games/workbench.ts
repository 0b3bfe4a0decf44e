/** Archives of a game on the recipe workbench. */
import type { ByteSource } from '../../core/bytes';
import { fileScratch, openFile } from '../../core/bytes/node';
import { checkTexts, hintsFor, tryRecipe } from '../recipes';
import type { HintsAnswer, TryAnswer } from '../shapes';
import { archiveFile, entrySource, requireArchive, withArchive, withMainFile } from './archive-access';
import { keysOfKinds } from './keys/keyring';

/** The most bytes of a file that are sent at once. */
const MAX_PART_BYTES = 1 << 20;

/** Tries a recipe on an archive's file, with the keys of its game. */
export async function tryOnArchive(
  order: { text: string; gameId: number; archiveId: number; quick?: boolean | undefined },
  signal?: AbortSignal,
): Promise<TryAnswer> {
  const row = await requireArchive(order.gameId, order.archiveId);
  const [checked] = await checkTexts([order.text]);
  // A text that does not compile needs no keys: the try says what is wrong with it.
  const keys = await keysOfKinds(order.gameId, checked!.fault === undefined ? checked!.needs : {});
  return withMainFile(row, (file) => tryRecipe({ text: order.text, file, keys, quick: order.quick ?? false }, signal));
}

export async function hintsOfArchive(gameId: number, archiveId: number, signal?: AbortSignal): Promise<HintsAnswer> {
  return withMainFile(await requireArchive(gameId, archiveId), (file) => hintsFor(file, signal));
}

/** Bytes `[from, to]` of the main file, at most 1 MiB of them, and its size. */
export async function archiveBytes(
  gameId: number,
  archiveId: number,
  from: number,
  to: number,
): Promise<{ bytes: Uint8Array; size: number }> {
  const part = async (source: ByteSource) => {
    const end = Math.min(source.size, to + 1, from + MAX_PART_BYTES);
    return { bytes: await source.read(Math.min(from, end), Math.max(0, end - from)), size: source.size };
  };
  const row = await requireArchive(gameId, archiveId);
  if (row.parentId !== null)
    return withArchive(row.parentId, async (around) => {
      const scratch = fileScratch();
      try {
        return await part(await entrySource(around, row.parentN!, scratch));
      } finally {
        await scratch.release();
      }
    });
  const source = await openFile(await archiveFile(row));
  try {
    return await part(source);
  } finally {
    await source.close();
  }
}
