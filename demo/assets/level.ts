/** What the valley is made of: heights, pictures of its ground, the route of the cable and its wind. */
import type { Level } from '../archives/level';
import { icon, mapTile } from './pictures';
import { randomFor } from './random';
import { weather } from './sounds';

const SIDE = 65;

export async function valley(): Promise<Level> {
  const random = randomFor('valley');
  const waves = Array.from({ length: 6 }, () => [random.next() * 9, random.next() * 9, random.next() * 6.3] as const);
  const heights = Uint16Array.from({ length: SIDE * SIDE }, (_, i) => {
    const [x, y] = [(i % SIDE) / SIDE, Math.floor(i / SIDE) / SIDE];
    return Math.round(9_000 + waves.reduce((sum, [a, b, c]) => sum + 900 * Math.sin(a * x + b * y + c), 0));
  });
  const tiles = Array.from({ length: 16 }, (_, i) => mapTile(i % 4, randomFor(`valley ground ${i}`)));
  const icons = Array.from({ length: 8 }, (_, i) => icon(randomFor(`valley sign ${i}`)));
  const stops = Array.from(
    { length: 40 },
    (_, i) => `mast ${i + 1} at ${random.whole(0, 640)}, ${random.whole(0, 640)}`,
  );
  return {
    side: SIDE,
    heights,
    pictures: await Promise.all([...tiles, ...icons]),
    route: `The route of the valley line\n${stops.join('\n')}\n`,
    wind: weather(randomFor('valley wind')),
  };
}
