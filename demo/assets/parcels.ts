/** Parcels that can be bought at the counter: each with a picture, a letter and what is in it. */
import type { ArchiveEntry } from '../archives/entry';
import { writeParcel } from '../archives/parcels';
import { icon } from './pictures';
import { randomFor } from './random';
import { letter, parcel } from './words';

export async function parcels(): Promise<ArchiveEntry[]> {
  const made = Array.from({ length: 12 }, async (_, i) => {
    const name = `parcel_${String(i + 1).padStart(2, '0')}`;
    const random = randomFor(name);
    const title = random.pick(['A gift', 'Spare parts', 'Something warm', 'From the valley', 'Handle with care']);
    const files: ArchiveEntry[] = [
      { path: 'thumbnail.png', bytes: await icon(random) },
      { path: 'contents.json', bytes: Buffer.from(parcel(i + 1, random)) },
    ];
    for (let letters = 0; letters <= i % 3; letters++)
      files.push({ path: `letter_${letters + 1}.txt`, bytes: Buffer.from(letter(random)) });
    return { path: `${name}.parcel`, bytes: writeParcel(title, files) };
  });
  return Promise.all(made);
}
