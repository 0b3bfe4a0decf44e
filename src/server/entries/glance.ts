/** Entries at a glance: a small picture, the outline of a sound, the first lines of a text. */
import { kept } from '../content';
import { asItself, entrySubject, formOf, type ServerForm, type Subject } from '../forms';
import { pathsInGame } from '../games';
import { withRequestCache } from '../request-cache';
import { announceViewing } from '../runs';
import type { Glance } from '../shapes';
import { THUMBNAIL_FRAME } from './thumbnail';

/** Larger entries are not unpacked for a glance. */
const MOST_BYTES = 16 << 20;
const AT_ONCE = 4;

/** @returns a glance of each entry, in order; the mark of its kind where there is nothing to say, or it cannot be read */
export function glancesAt(entries: readonly (readonly [archive: number, n: number])[]): Promise<Glance[]> {
  announceViewing();
  return withRequestCache(async () => {
    const paths = await pathsInGame(entries);
    const glances = new Array<Glance>(entries.length).fill(NOTHING);
    let next = 0;
    const lane = async () => {
      for (let i = next++; i < entries.length; i = next++)
        glances[i] = await glanceAt(...entries[i]!, paths[i]).catch(() => NOTHING);
    };
    await Promise.all(Array.from({ length: AT_ONCE }, lane));
    return glances;
  });
}

const NOTHING: Glance = { summary: '', shows: { is: 'mark' } };

async function glanceAt(archiveId: number, n: number, path: string | undefined): Promise<Glance> {
  const subject = asItself(await entrySubject(archiveId, n, { path }));
  const form = formOf(subject);
  if (form === undefined) return NOTHING;
  if (form.isGlanceCheap === true) return form.glance(subject);
  if (subject.size > MOST_BYTES) return NOTHING;
  const json = await kept(archiveId, n, 'card.json', async () =>
    Buffer.from(JSON.stringify(await withThumbnail(form, subject))),
  );
  return JSON.parse(Buffer.from(json).toString()) as Glance;
}

/** A thumbnail that is made quickly comes along: a request for each would cost more than the picture. */
async function withThumbnail(form: ServerForm, subject: Subject): Promise<Glance> {
  const glance = await form.glance(subject);
  if (glance.shows.is !== 'thumbnail' || form.isThumbnailQuick !== true) return glance;
  const webp = Buffer.from(await form.thumbnail!(subject, THUMBNAIL_FRAME)).toString('base64');
  return { ...glance, shows: { is: 'thumbnail', webp } };
}
