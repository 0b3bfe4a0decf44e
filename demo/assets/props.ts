/** The props of the stations: materials, pictures and layouts, known to the game by number; names repeat. */
import type { CrateObject } from '../archives/crate';
import { LIVERY_COLOURS, plank } from './pictures';
import { randomFor } from './random';

const NAMES = ['bench', 'lamp', 'clock', 'barrier', 'counter', 'bell', 'crane', 'pylon', 'ladder', 'crate'];

export async function props(): Promise<CrateObject[]> {
  const objects: CrateObject[] = [];
  const add = (type: string, name: string, bytes: Buffer | string) =>
    objects.push({ type, id: BigInt(objects.length * 977 + 4001), name, bytes: Buffer.from(bytes) });
  for (const name of NAMES) {
    for (let copy = 0; copy < 3; copy++) {
      const random = randomFor(`prop ${name} ${copy}`);
      const colour = random.pick(Object.values(LIVERY_COLOURS));
      add('material', name, `${JSON.stringify({ colour, rough: random.whole(10, 90), metal: random.next() < 0.3 })}\n`);
    }
    add('picture', name, await plank(randomFor(`plank ${name}`)));
    const random = randomFor(`layout ${name}`);
    const spots = Array.from({ length: 8 }, () => [random.whole(0, 400), random.whole(0, 300), random.whole(0, 359)]);
    add('layout', name, `${JSON.stringify({ prop: name, spots })}\n`);
  }
  return objects;
}
