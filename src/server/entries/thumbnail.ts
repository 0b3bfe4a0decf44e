/** Small pictures of entries. */
import { FaultError } from '../../core/faults';
import { kept } from '../content';
import { withRequestCache } from '../request-cache';
import { announceViewing } from '../runs';
import { asItself, entrySubject, formOf } from '../forms';

export const THUMBNAIL_FRAME = { width: 264, height: 168 } as const;

/**
 * A small WebP of an entry, kept by what the archive and the entry are.
 *
 * @throws FaultError `wrong-kind` when there is nothing to see of it, and what reading it says
 */
export function thumbnail(archiveId: number, n: number): Promise<Uint8Array> {
  announceViewing();
  return withRequestCache(() =>
    kept(archiveId, n, 'webp', async () => {
      const subject = asItself(await entrySubject(archiveId, n));
      const form = formOf(subject);
      if (form?.thumbnail !== undefined) return form.thumbnail(subject, THUMBNAIL_FRAME);
      throw new FaultError({
        code: 'wrong-kind',
        entry: subject.path,
        what: 'there is no picture of entries of this kind',
      });
    }),
  );
}
