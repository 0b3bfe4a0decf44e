/** A subject is what a form is read from: an entry, a change, or what the game had when the change was made. */
import { FaultError } from '../../core/faults';
import { baseBytes, changeBytes } from '../changes';
import { entryBytes, winnerBytes } from '../content';
import type { FormBytes } from '../forms';
import { pathInGameOf, requireArchive } from '../games';

/**
 * @param subject `entry-ARCHIVE-N`, `change-ID` or `base-ID`
 * @throws FaultError `invalid-request`, `not-found`, `no-such-entry`, `limit-reached`
 */
export async function subjectBytes(gameId: number, subject: string): Promise<FormBytes> {
  const [, of, first, second] = /^(entry|change|base)-(\d+)(?:-(\d+))?$/.exec(subject) ?? [];
  const beside = (path: string) => winnerBytes(gameId, path);
  if (of === 'entry' && second !== undefined) {
    const archive = await requireArchive(gameId, Number(first));
    const [{ bytes }, path] = await Promise.all([
      entryBytes(archive.id, Number(second)),
      pathInGameOf(archive.id, Number(second)),
    ]);
    return { gameId, path, bytes, beside };
  }
  if ((of === 'change' || of === 'base') && second === undefined) {
    const { bytes, path } =
      of === 'change' ? await changeBytes(gameId, Number(first)) : await baseBytes(gameId, Number(first));
    return { gameId, path, bytes, beside };
  }
  throw new FaultError({
    code: 'invalid-request',
    what: 'there is no such subject',
    expected: 'entry-ARCHIVE-N, change-ID or base-ID',
    found: subject,
  });
}
