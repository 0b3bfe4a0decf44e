/**
 * Work behind the scenes gives way to somebody who looks at something: the page server says that it is asked for previews, and the
 * worker reads for proofs and searches more slowly for a moment.
 */
import { setTimeout as pause } from 'node:timers/promises';
import type { ByteSource } from '../../core/bytes';

/** After the last news, somebody is taken to look on for so long. */
const LOOKS_ON_MS = 800;
/** How long one read waits at most: who looks for an hour slows the work down, and does not stop it. */
const MOST_WAIT_MS = 200;
const WAIT_MS = 50;

let noticed = -Infinity;

/** The page server has said so. */
export function noticeLook(): void {
  noticed = performance.now();
}

const isLookedAt = (): boolean => performance.now() - noticed < LOOKS_ON_MS;

/** A source whose reads wait a little while somebody looks at something. */
export function givingWay(source: ByteSource): ByteSource {
  return {
    name: source.name,
    size: source.size,
    read: async (offset, length) => {
      for (let waited = 0; waited < MOST_WAIT_MS && isLookedAt(); waited += WAIT_MS) await pause(WAIT_MS);
      return source.read(offset, length);
    },
  };
}
