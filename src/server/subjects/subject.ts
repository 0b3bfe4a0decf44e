/** A subject is what a form is read from: an entry, a change, or what the game had when the change was made. */
import { FaultError } from '../../core/faults';
import { changeSubject } from '../changes';
import { entrySubject, type Subject } from '../forms';
import { requireArchive } from '../games';

/**
 * @param subject `entry-ARCHIVE-N`, `change-ID` or `base-ID`
 * @throws FaultError `invalid-request`, `not-found`, `no-such-entry`, `limit-reached`
 */
export async function subjectOf(gameId: number, subject: string): Promise<Subject> {
  const [, of, first, second] = /^(entry|change|base)-(\d+)(?:-(\d+))?$/.exec(subject) ?? [];
  if (of === 'entry' && second !== undefined) {
    const archive = await requireArchive(gameId, Number(first));
    return entrySubject(archive.id, Number(second));
  }
  if ((of === 'change' || of === 'base') && second === undefined) return changeSubject(gameId, Number(first), of);
  throw new FaultError({
    code: 'invalid-request',
    what: 'there is no such subject',
    expected: 'entry-ARCHIVE-N, change-ID or base-ID',
    found: subject,
  });
}
