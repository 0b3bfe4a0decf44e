/** Maps of tile layers in records: which numbers lie where, as the profile of a game says. */
import { z } from 'zod';
import { FormatError } from '../../faults';

/** Where a value is in JSON (RFC 6901), such as `/layers`; empty for the whole of it. */
const pointer = z
  .string()
  .regex(/^(\/([^~/]|~[01])*)*$/, 'is no JSON pointer, such as /layers')
  .max(300);

/** How files that are alike hold a map. */
export const tileMapRule = z.strictObject({
  /** The files, as their table of records is called. */
  files: z.string().min(1).max(4096),
  /** Tiles along x and y. */
  width: pointer,
  height: pointer,
  /** A list of layers; without it there is one, and `data` begins at the whole. */
  layers: pointer.optional(),
  /** The numbers of a layer, row by row, in one list or a list for each row. */
  data: pointer,
  /** What a layer is called. */
  name: pointer.optional(),
  tiles: z.strictObject({
    /** The path of the entry with the pictures of all tiles, side by side and row by row. */
    picture: z.string().min(1).max(4096),
    /** Pixels of one tile. */
    width: z.number().int().min(1).max(1024),
    height: z.number().int().min(1).max(1024),
    /** The number of the first tile; what is below it is empty. */
    first: z.number().int().min(0).max(1_000_000),
  }),
});
export type TileMapRule = z.output<typeof tileMapRule>;

export interface TileLayer {
  readonly name: string;
  /** Row by row. */
  readonly tiles: Float64Array;
}

export interface TileMap {
  readonly width: number;
  readonly height: number;
  readonly layers: readonly TileLayer[];
}

/** Tiles of all layers of one map. */
const MOST_TILES = 16 << 20;
const MOST_LAYERS = 100;

/** The value at a JSON pointer; undefined when nothing is there. */
function at(value: unknown, path: string): unknown {
  let found = value;
  for (const part of path.split('/').slice(1)) {
    const name = part.replaceAll('~1', '/').replaceAll('~0', '~');
    if (typeof found !== 'object' || found === null || !Object.hasOwn(found, name)) return undefined;
    found = (found as Record<string, unknown>)[name];
  }
  return found;
}

/**
 * @param file is named in errors
 * @throws FormatError `wrong-kind` with the place of what is not as the rule says, `limit-reached`
 */
export function readTileMap(value: unknown, rule: Omit<TileMapRule, 'files' | 'tiles'>, file: string): TileMap {
  const wrong = (field: string, expected: string, found: unknown) =>
    new FormatError({
      code: 'wrong-kind',
      file,
      what: 'it is no map as the profile of the game says',
      field: field || 'the whole',
      expected,
      found: found === undefined ? 'nothing' : (JSON.stringify(found) ?? typeof found).slice(0, 80),
    });
  const side = (path: string) => {
    const found = at(value, path);
    if (typeof found === 'number' && Number.isInteger(found) && found > 0 && found <= MOST_TILES) return found;
    throw wrong(path, 'how many tiles there are, a whole number', found);
  };
  const [width, height] = [side(rule.width), side(rule.height)];
  const list = rule.layers === undefined ? [value] : at(value, rule.layers);
  if (!Array.isArray(list) || list.length === 0) throw wrong(rule.layers ?? '', 'a list of layers', list);
  if (list.length > MOST_LAYERS || list.length * width * height > MOST_TILES)
    throw new FormatError({
      code: 'limit-reached',
      file,
      what: 'the map is too large to be drawn',
      limit: `tiles of a map, ${MOST_TILES.toLocaleString('en')}`,
    });
  const layers = list.flatMap((layer: unknown, i): TileLayer[] => {
    const place = `${rule.layers ?? ''}${rule.layers === undefined ? '' : `/${i}`}${rule.data}`;
    const found = at(layer, rule.data);
    // Layers of other things, such as objects, have no tiles.
    if (found === undefined && rule.layers !== undefined) return [];
    if (!Array.isArray(found)) throw wrong(place, 'a list of tiles', found);
    const flat = (Array.isArray(found[0]) ? found.flat() : found) as unknown[];
    if (flat.length !== width * height)
      throw wrong(place, `${(width * height).toLocaleString('en')} tiles, ${width} × ${height}`, flat.length);
    const odd = flat.findIndex((one) => typeof one !== 'number');
    if (odd >= 0) throw wrong(`${place}/${odd}`, 'the number of a tile', flat[odd]);
    const name = rule.name === undefined ? undefined : at(layer, rule.name);
    return [{ name: typeof name === 'string' ? name : `Layer ${i + 1}`, tiles: Float64Array.from(flat as number[]) }];
  });
  if (layers.length > 0) return { width, height, layers };
  throw wrong(`${rule.layers}/0${rule.data}`, 'a list of tiles in one layer at least', undefined);
}

const WIDTHS = ['width', 'w', 'cols', 'columns'];
const HEIGHTS = ['height', 'h', 'rows'];

/** Where a file may hold a map, recognised by its sizes and lists of numbers; undefined where nothing looks like one. */
export function guessTileMap(value: unknown): Omit<TileMapRule, 'files' | 'tiles'> | undefined {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return undefined;
  const names = Object.keys(value);
  const named = (wanted: readonly string[]) =>
    names.find((name) => wanted.includes(name.toLowerCase()) && typeof at(value, `/${escaped(name)}`) === 'number');
  const [width, height] = [named(WIDTHS), named(HEIGHTS)];
  if (width === undefined || height === undefined) return undefined;
  const [across, along] = [width, height].map((name) => Number((value as Record<string, unknown>)[name]));
  const isTiles = (one: unknown) =>
    Array.isArray(one) &&
    (one.length === across! * along! || (one.length === along && Array.isArray(one[0]) && one[0].length === across));
  const sides = { width: `/${escaped(width)}`, height: `/${escaped(height)}` };
  for (const name of names) {
    const found = (value as Record<string, unknown>)[name];
    if (isTiles(found)) return { ...sides, data: `/${escaped(name)}` };
    if (!Array.isArray(found)) continue;
    for (const layer of found as unknown[]) {
      if (typeof layer !== 'object' || layer === null) continue;
      const data = Object.entries(layer).find(([, one]) => isTiles(one))?.[0];
      if (data === undefined) continue;
      const called = Object.keys(layer).find((key) => /^(name|id|title)$/i.test(key));
      return {
        ...{ ...sides, layers: `/${escaped(name)}`, data: `/${escaped(data)}` },
        ...(called === undefined ? {} : { name: `/${escaped(called)}` }),
      };
    }
  }
  return undefined;
}

const escaped = (name: string) => name.replaceAll('~', '~0').replaceAll('/', '~1');

export interface TileSheet {
  /** RGBA. */
  readonly pixels: Uint8Array;
  readonly width: number;
  readonly height: number;
  /** Pixels of one tile. */
  readonly tile: readonly [width: number, height: number];
  readonly first: number;
}

/**
 * Draws some layers of a map, the first of them at the bottom.
 *
 * @returns RGBA, and how many tiles have no picture on the sheet
 */
export function drawTileMap(
  { width, height, layers }: TileMap,
  sheet: TileSheet,
): { readonly pixels: Uint8Array; readonly width: number; readonly height: number; readonly unknown: number } {
  const [across, along] = sheet.tile;
  const columns = Math.floor(sheet.width / across);
  const known = columns * Math.floor(sheet.height / along);
  const [fullWidth, fullHeight] = [width * across, height * along];
  const pixels = new Uint8Array(fullWidth * fullHeight * 4);
  let unknown = 0;
  for (const { tiles } of layers)
    for (let i = 0; i < tiles.length; i++) {
      const tile = tiles[i]! - sheet.first;
      if (tile < 0) continue;
      if (tile >= known || !Number.isInteger(tile)) {
        unknown++;
        continue;
      }
      const from = [(tile % columns) * across, Math.floor(tile / columns) * along] as const;
      const to = [(i % width) * across, Math.floor(i / width) * along] as const;
      for (let y = 0; y < along; y++) {
        let source = ((from[1] + y) * sheet.width + from[0]) * 4;
        let target = ((to[1] + y) * fullWidth + to[0]) * 4;
        for (let x = 0; x < across; x++, source += 4, target += 4) lay(sheet.pixels, source, pixels, target);
      }
    }
  return { pixels, width: fullWidth, height: fullHeight, unknown };
}

/** One pixel over another, neither of them premultiplied. */
function lay(from: Uint8Array, source: number, to: Uint8Array, target: number): void {
  const above = from[source + 3]!;
  if (above === 0) return;
  const below = to[target + 3]!;
  if (above === 255 || below === 0) {
    for (let i = 0; i < 4; i++) to[target + i] = from[source + i]!;
    return;
  }
  const rest = (below * (255 - above)) / 255;
  const alpha = above + rest;
  for (let i = 0; i < 3; i++) to[target + i] = Math.round((from[source + i]! * above + to[target + i]! * rest) / alpha);
  to[target + 3] = Math.round(alpha);
}
