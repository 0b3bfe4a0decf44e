/** The journal: loose files of the game, plain pages and sketches whose first bytes are scrambled. */
import { createHash } from 'node:crypto';
import { icon, station } from './pictures';
import { randomFor } from './random';

export interface JournalFile {
  readonly name: string;
  readonly bytes: Buffer;
  /** Its first bytes are scrambled in the game's folder. */
  readonly scrambled: boolean;
}

/** The seal of the journal: 16 bytes, the key of the scramble. It is in `journal.json`, in hex. */
export const SEAL = createHash('md5').update('the seal of the journal').digest();

const PAGES = 12;
const SKETCHES = 18;

export async function journal(): Promise<JournalFile[]> {
  const sketches = await Promise.all(
    Array.from({ length: SKETCHES }, (_, i) => {
      const random = randomFor(`sketch${i}`);
      return i % 3 === 0 ? station(random) : icon(random);
    }),
  );
  const number = (i: number) => String(i + 1).padStart(2, '0');
  const names = sketches.map((_, i) => `sketches/sketch_${number(i)}.png`);
  const pages = Array.from({ length: PAGES }, (_, i) => {
    const random = randomFor(`page${i}`);
    const shown = Array.from({ length: random.whole(1, 3) }, () => random.pick(names));
    const page = {
      day: i + 1,
      weather: random.pick(['snow', 'fog', 'clear', 'wind']),
      carried: random.whole(3, 40),
      sketches: [...new Set(shown)],
    };
    return { name: `pages/page_${number(i)}.json`, bytes: Buffer.from(`${JSON.stringify(page, null, 2)}\n`) };
  });
  const front = {
    journal: 'Gondola Post',
    seal: SEAL.toString('hex'),
    pages: pages.map(({ name }) => name),
  };
  return [
    { name: 'journal.json', bytes: Buffer.from(`${JSON.stringify(front, null, 2)}\n`), scrambled: false },
    ...pages.map((page) => ({ ...page, scrambled: false })),
    ...sketches.map((bytes, i) => ({ name: names[i]!, bytes, scrambled: true })),
  ];
}
