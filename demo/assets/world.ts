/** The valley in tiles: heights, and a drawn map of each. */
import type { ArchiveEntry } from '../archives/entry';
import { pathHash } from '../archives/world';
import { mapTile } from './pictures';
import { randomFor } from './random';

const AREAS = ['valley', 'slope', 'summit'] as const;
/** Heights along a side of a tile; the last ones are the first of the next tile. */
const SIDE = 33;

/** @param side tiles along a side of an area. @returns the entries of each area, which is a volume of its own */
export async function worldAreas(side: number): Promise<ArchiveEntry[][]> {
  return Promise.all(AREAS.map((area, level) => areaEntries(area, level, side)));
}

async function areaEntries(area: string, level: number, side: number): Promise<ArchiveEntry[]> {
  const entries: ArchiveEntry[] = [];
  const tiles: string[] = [];
  for (let row = 0; row < side; row++) {
    for (let column = 0; column < side; column++) {
      const tile = `world/${area}/tile_${two(row)}_${two(column)}`;
      tiles.push(tile);
      entries.push({ path: `${tile}.height`, bytes: heights(area, level, row, column) });
      entries.push({ path: `${tile}.png`, bytes: await mapTile(level, randomFor(tile)) });
    }
  }
  entries.push({ path: `world/${area}/whole.height`, bytes: wholeHeights(area, level, side) });
  // Known by the hash of its path, as the index of the world knows it.
  const whole = pathHash(`world/${area}/whole.height`).toString(16).padStart(16, '0');
  const places = `${JSON.stringify({ area, side, whole, tiles }, null, 2)}\n`;
  entries.push({ path: `world/${area}/places.json`, bytes: Buffer.from(places) });
  return entries;
}

const two = (number: number) => String(number).padStart(2, '0');

/** 33 × 33 heights in decimetres, u16, row by row, that meet at the edges of the tiles. */
function heights(area: string, level: number, row: number, column: number): Buffer {
  return surface(area, level, SIDE, column * (SIDE - 1), row * (SIDE - 1));
}

/** The heights of a whole area, in the same form. */
function wholeHeights(area: string, level: number, side: number): Buffer {
  return surface(area, level, side * (SIDE - 1) + 1, 0, 0);
}

/** Slow waves. */
function surface(area: string, level: number, side: number, left: number, top: number): Buffer {
  const random = randomFor(area);
  const waves = Array.from({ length: 6 }, () => ({
    x: (random.next() - 0.5) * 0.2,
    y: (random.next() - 0.5) * 0.2,
    turn: random.next() * 6,
    size: random.whole(40, 400),
  }));
  const bytes = Buffer.alloc(side * side * 2);
  for (let i = 0; i < side * side; i++) {
    const x = left + (i % side);
    const y = top + Math.floor(i / side);
    const height = waves.reduce((sum, wave) => sum + wave.size * Math.sin(wave.x * x + wave.y * y + wave.turn), 0);
    bytes.writeUInt16LE(Math.round(4000 + level * 6000 + height), i * 2);
  }
  return bytes;
}
