/** Starting a search for keys, in a file of the game or one that is sent. */
import { randomBytes } from 'node:crypto';
import { mkdir, readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { createFile } from '../../../core/bytes/node';
import { FaultError } from '../../../core/faults';
import { ArchiveModel } from '../../database';
import { env } from '../../env';
import { startRun } from '../../runs';
import type { RunAnswer, RunOrder } from '../../shapes';
import { underRoots } from '../../storage';
import { requireGame } from '../require-game';

const MAX_UPLOAD_BYTES = 4 * 2 ** 30;
const MAX_UPLOAD_AGE_MS = 24 * 3_600_000;

/** @throws FaultError when nothing is locked, or the file is not in reach */
export async function searchGameFile(gameId: number, file: string): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  await requireLocked(gameId);
  return start(gameId, { haystack: await underRoots(join(game.folder, file)), name: file, temporary: false });
}

/** The same in a file that is sent: it is kept for the search and no longer. */
export async function searchSentFile(
  gameId: number,
  name: string,
  bytes: AsyncIterable<Uint8Array>,
): Promise<RunAnswer> {
  await requireGame(gameId);
  await requireLocked(gameId);
  const folder = join(env().home, 'uploads');
  await mkdir(folder, { recursive: true });
  const haystack = join(folder, randomBytes(12).toString('hex'));
  const sink = await createFile(haystack);
  let size = 0;
  try {
    for await (const chunk of bytes) {
      size += chunk.length;
      if (size > MAX_UPLOAD_BYTES)
        throw new FaultError({
          code: 'limit-reached',
          file: name,
          what: 'the file is too large to be sent',
          limit: `bytes of a file that is looked through, ${MAX_UPLOAD_BYTES.toLocaleString('en')}`,
          hint: 'Put it into the game’s folder and choose it there.',
        });
      await sink.write(chunk);
    }
    await sink.close();
  } catch (error) {
    await sink.abandon();
    throw error;
  }
  return start(gameId, { haystack, name, temporary: true });
}

/** Files that were sent for a search whose worker died are not kept for ever. */
export async function removeOldUploads(): Promise<void> {
  const folder = join(env().home, 'uploads');
  const names = await readdir(folder).catch(() => []);
  for (const name of names) {
    const path = join(folder, name);
    const facts = await stat(path).catch(() => undefined);
    if (facts !== undefined && Date.now() - facts.mtimeMs > MAX_UPLOAD_AGE_MS) await rm(path, { force: true });
  }
}

async function requireLocked(gameId: number): Promise<void> {
  if ((await ArchiveModel.count({ where: { gameId, state: 'locked' } })) > 0) return;
  throw new FaultError({ code: 'conflict', what: 'no archive of this game is locked', hint: 'Scan the folder first.' });
}

function start(gameId: number, input: RunOrder<'key-search'>): Promise<RunAnswer> {
  return startRun('key-search', { title: `Looking for keys in ${input.name}`, gameId, input });
}
