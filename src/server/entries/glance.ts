/** Entries at a glance: the size of a picture, the outline of a sound, the first lines of a text. */
import { kept } from '../content';
import { asItself, entrySubject, formOf } from '../forms';
import type { Glance } from '../shapes';

/** Larger entries are not unpacked for a glance. */
const MOST_BYTES = 16 << 20;
const AT_ONCE = 4;

/** @returns a glance of each entry, in order; the mark of its kind where there is nothing to say, or it cannot be read */
export async function glancesAt(entries: readonly (readonly [archive: number, n: number])[]): Promise<Glance[]> {
  const glances: Glance[] = [];
  for (let from = 0; from < entries.length; from += AT_ONCE) {
    const part = entries.slice(from, from + AT_ONCE);
    glances.push(...(await Promise.all(part.map(([archive, n]) => glanceAt(archive, n).catch(() => NOTHING)))));
  }
  return glances;
}

const NOTHING: Glance = { summary: '', shows: { is: 'mark' } };

async function glanceAt(archiveId: number, n: number): Promise<Glance> {
  const subject = asItself(await entrySubject(archiveId, n));
  const form = formOf(subject);
  if (form === undefined) return NOTHING;
  if (form.isGlanceCheap === true) return form.glance(subject);
  if (subject.size > MOST_BYTES) return NOTHING;
  const json = await kept(archiveId, n, 'card.json', async () =>
    Buffer.from(JSON.stringify(await form.glance(subject))),
  );
  return JSON.parse(Buffer.from(json).toString()) as Glance;
}
