/**
 * Reads of background work are slowed down while a user views something: the page server announces requests for previews, and the
 * worker then reads less often for proofs and for the search for hidden files.
 */
import { setTimeout as pause } from 'node:timers/promises';
import type { ByteSource } from '../../core/bytes';

/** A user is taken to be viewing for this long after the last announcement. */
const VIEWING_MS = 800;
/** The longest delay of one read: background work becomes slower, and never stops. */
const MAX_DELAY_MS = 200;
const DELAY_STEP_MS = 50;

let lastViewing = -Infinity;

/** Called in the worker for each announcement of the page server. */
export function noteViewing(): void {
  lastViewing = performance.now();
}

const isUserViewing = (): boolean => performance.now() - lastViewing < VIEWING_MS;

/** A source whose reads are delayed while a user is viewing something. */
export function backgroundSource(source: ByteSource): ByteSource {
  return {
    name: source.name,
    size: source.size,
    read: async (offset, length) => {
      for (let delay = 0; delay < MAX_DELAY_MS && isUserViewing(); delay += DELAY_STEP_MS) await pause(DELAY_STEP_MS);
      return source.read(offset, length);
    },
  };
}
