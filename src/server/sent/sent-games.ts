/** Games that are sent through the browser: files that come in pieces (tus 1.0), and can be gone on with. */
import { link, mkdir, rm, stat, unlink } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { FileStore } from '@tus/file-store';
import { Server } from '@tus/server';
import { z } from 'zod';
import { makeBelow } from '../../core/bytes/node';
import { faultOf, FaultError, sayFault } from '../../core/faults';
import { SafePaths } from '../../core/game';
import { env } from '../env';
import { onePerProcess } from '../one-per-process';
import { requireSpace } from '../storage';

/** What is begun and not gone on with for so long is thrown away. */
const KEPT_MS = 7 * 24 * 60 * 60 * 1000;
const MOST_BYTES = 256 * 2 ** 30;

/** What a file is sent with. */
const sentFile = z.object({
  /** The game's name: the folder it lies in on the server. */
  game: z.string().min(1).max(120),
  /** The file's path in the game's folder. */
  path: z.string().min(1).max(4096),
});

/** Answers the requests of an upload. */
export const answerUpload = (request: Request): Promise<Response> => uploads().handleWeb(request);

function uploads(): Server {
  return onePerProcess('sent', () => {
    const directory = join(env().home, 'uploads', 'sent');
    const server: Server = new Server({
      path: '/api/sent',
      datastore: new FileStore({ directory, expirationPeriodInMilliseconds: KEPT_MS }),
      relativeLocation: true,
      maxSize: MOST_BYTES,
      onUploadCreate: async (_, upload) =>
        inWords(async () => {
          await server.cleanUpExpiredUploads().catch(() => 0);
          const { folder, path } = placeOf(upload.metadata);
          if ((await stat(join(folder, path)).catch(() => undefined)) !== undefined) throw thereAlready(path);
          await requireSpace(env().home, upload.size ?? 0, {
            what: 'there is not enough room for the file',
            hint: 'Free some space on the server: Storage shows what can go.',
          });
          return {};
        }),
      onUploadFinish: async (_, upload) =>
        inWords(async () => {
          const { folder, path } = placeOf(upload.metadata);
          const sent = join(directory, upload.id);
          await mkdir(folder, { recursive: true });
          const target = join(await makeBelow(folder, dirname(path)), basename(path));
          // A hard link fails where the name exists, so nothing is ever written over.
          await link(sent, target).catch((error: unknown) => {
            throw (error as { code?: string }).code === 'EEXIST' ? thereAlready(path) : error;
          });
          await unlink(sent);
          await rm(`${sent}.json`, { force: true });
          return {};
        }),
    });
    return server;
  });
}

/** Where a file goes. @throws FaultError for a name that leads somewhere else, or that no file can have */
function placeOf(metadata: unknown): { folder: string; path: string } {
  const { game, path } = sentFile.parse(metadata ?? {});
  for (const name of [game, path]) {
    const { renamed } = new SafePaths().clean(name);
    if (renamed !== undefined)
      throw new FaultError({ code: 'not-allowed', file: name, what: `no file is kept under that name: ${renamed}` });
  }
  if (game.includes('/') || game.startsWith('.'))
    throw new FaultError({ code: 'not-allowed', file: game, what: 'this is no name of a game' });
  return { folder: join(env().home, 'games', game), path };
}

const thereAlready = (path: string) =>
  new FaultError({
    code: 'conflict',
    file: path,
    what: 'a game of that name has the file already',
    hint: 'Give the game another name.',
  });

/** Faults as the protocol carries them. */
async function inWords<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    const fault =
      error instanceof z.ZodError
        ? new FaultError({ code: 'invalid-request', what: 'the upload does not say which file of which game it is' })
        : new FaultError(faultOf(error));
    const status = { conflict: 409, 'disk-full': 507, 'not-allowed': 403 }[fault.fault.code as string] ?? 422;
    // The protocol's library takes an object that is no error.
    throw { status_code: status, body: sayFault(fault.fault) };
  }
}
