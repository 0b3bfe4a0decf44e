/** Films: a file, or the packets of an archive that is one. */
import type { FormRead, ServerForm, Subject } from '../form';
import { isRaster, readRaster } from '../picture';
import { filmFacts, filmPoster } from './film-service';
import { planFilms } from './take-out';

export const filmForm: ServerForm = {
  kind: 'film',
  is: ({ kind, declared }) => kind === 'film' || declared === 'film',
  read,
  async glance({ entry }) {
    if (entry === undefined) return { summary: '', shows: { is: 'mark' } };
    const { seconds } = await filmFacts(entry.archive, entry.n);
    return { summary: seconds > 0 ? `${seconds.toFixed(1)} s` : '', shows: { is: 'thumbnail', webp: null } };
  },
  isGlanceCheap: true,
  thumbnail: ({ entry }, frame) => filmPoster(entry!.archive, entry!.n, frame),
  planOut: planFilms,
};

/** A packet is read as the picture it holds as well. */
async function read(subject: Subject): Promise<FormRead> {
  const { entry, mime } = subject;
  if (entry === undefined) return { facts: null, expects: [] };
  const film = await filmFacts(entry.archive, entry.n);
  const streams = film.streams.map(({ summary }) => `${summary}.`);
  const expects = ['A film, a sound, or subtitles as SRT or WebVTT: only what yours brings is replaced.', ...streams];
  if (film.packet === null) return { facts: film, expects };
  const own = isRaster(mime) ? await readRaster(subject) : undefined;
  const picture = own?.facts?.form === 'picture' ? own.facts : null;
  const alone = own?.expects.map((line) => `This packet alone: ${line}`) ?? [];
  return { facts: { ...film, packet: { ...film.packet, picture } }, expects: [...expects, ...alone] };
}
