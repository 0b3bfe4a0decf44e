/** The freight of the large size: many entries, drawn from a pool, so that gigabytes are made in a minute or two. */
import type { ArchiveEntry } from '../archives/entry';
import { cabin, icon, LIVERY_COLOURS, mapTile } from './pictures';
import { randomFor } from './random';
import { weather } from './sounds';
import { parcel } from './words';

export interface FreightPool {
  readonly pictures: readonly Buffer[];
  readonly sounds: readonly Buffer[];
}

export async function freightPool(): Promise<FreightPool> {
  const colours = Object.values(LIVERY_COLOURS);
  const pictures = await Promise.all(
    Array.from({ length: 96 }, (_, i) => {
      const random = randomFor(`freight picture ${i}`);
      return i % 3 === 0
        ? icon(random)
        : i % 3 === 1
          ? mapTile(i % 4, random)
          : cabin(random.pick(colours), random, false);
    }),
  );
  return { pictures, sounds: Array.from({ length: 12 }, (_, i) => weather(randomFor(`freight sound ${i}`))) };
}

/** The entries of one archive, in the order of their paths. */
export function freight({ pictures, sounds }: FreightPool, archive: number, count: number): ArchiveEntry[] {
  const random = randomFor(`freight ${archive}`);
  const hall = `freight/hall_${String(archive).padStart(2, '0')}`;
  const entries = Array.from({ length: count }, (_, i): ArchiveEntry => {
    const bay = `${hall}/bay_${String(Math.floor(i / 100)).padStart(3, '0')}`;
    const number = String(i).padStart(5, '0');
    if (i % 2 === 0) return { path: `${bay}/stamp_${number}.png`, bytes: random.pick(pictures) };
    if (i % 4 === 1) return { path: `${bay}/slip_${number}.json`, bytes: Buffer.from(parcel(i, random)) };
    // One sample of each differs, so that no two are the same file.
    const sound = Buffer.from(random.pick(sounds));
    sound.writeInt16LE(i % 32_000, sound.length - 2);
    return { path: `${bay}/hum_${number}.wav`, bytes: sound };
  });
  return entries.sort((a, b) => (a.path < b.path ? -1 : 1));
}
