/** Archives of a game on the recipe workbench. */
import { openFile } from '../../core/bytes/node';
import { faultOf } from '../../core/faults';
import { compileRecipe } from '../../core/recipe';
import { hintsFor, tryRecipe } from '../recipes';
import type { HintsAnswer, TryAnswer } from '../shapes';
import { archiveFile, requireArchive } from './archive-access';
import { keysOfKinds } from './keyring';

/** The most bytes of a file that are sent at once. */
const MAX_PART_BYTES = 1 << 20;

/** Tries a recipe on an archive's file, with the keys of its game. */
export async function tryOnArchive(
  order: { text: string; gameId: number; archiveId: number; quick?: boolean | undefined },
  signal?: AbortSignal,
): Promise<TryAnswer> {
  const file = await archiveFile(await requireArchive(order.gameId, order.archiveId));
  const keys = await keysOfKinds(order.gameId, needsOf(order.text));
  return tryRecipe({ text: order.text, file, keys, quick: order.quick ?? false }, signal);
}

/** A text that does not compile needs no keys: the try says what is wrong with it. */
function needsOf(text: string): Record<string, string> {
  try {
    return Object.fromEntries(compileRecipe(text).needs);
  } catch (error) {
    if (faultOf(error).code !== 'invalid-request') return {};
    throw error;
  }
}

export async function hintsOfArchive(gameId: number, archiveId: number, signal?: AbortSignal): Promise<HintsAnswer> {
  return hintsFor(await archiveFile(await requireArchive(gameId, archiveId)), signal);
}

/** Bytes `[from, to]` of the main file, at most 1 MiB of them, and its size. */
export async function archiveBytes(
  gameId: number,
  archiveId: number,
  from: number,
  to: number,
): Promise<{ bytes: Uint8Array; size: number }> {
  const source = await openFile(await archiveFile(await requireArchive(gameId, archiveId)));
  try {
    const end = Math.min(source.size, to + 1, from + MAX_PART_BYTES);
    return { bytes: await source.read(Math.min(from, end), Math.max(0, end - from)), size: source.size };
  } finally {
    await source.close();
  }
}
