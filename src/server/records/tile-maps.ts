/** Maps of tile layers: records that are drawn as pictures, where the profile of the game says how. */
import sharp from 'sharp';
import { faultOf, FaultError, sayFault } from '../../core/faults';
import {
  guessTileMap,
  readTileMap,
  tableOfPath,
  textOf,
  type TileMap,
  type TileMapRule,
} from '../../core/forms/records';
import type { TileMapOrder } from '../../workers/pool-thread';
import { GameModel } from '../database';
import { entryBytes, findWinner } from '../content';
import { entrySubject, pictureFileAs, pictureOf } from '../forms';
import { profileOf, requireGame } from '../games';
import type { TileMapAnswer, TileMapEdit } from '../shapes';
import { inThread } from '../threads';

/** Pixels along a side of the picture that is made: a larger map is drawn smaller. */
const MOST_SIDE = 4096;

interface Read {
  readonly files: string;
  readonly path: string;
  readonly value: unknown;
  readonly rule: TileMapRule | undefined;
}

async function read(gameId: number, archive: number, n: number): Promise<Read> {
  const { bytes, path } = await entryBytes(archive, n);
  const files = tableOfPath(path);
  const rule = profileOf(await requireGame(gameId)).maps.find((one) => one.files === files);
  let value: unknown;
  try {
    value = JSON.parse(textOf(bytes, path));
  } catch {
    // What is no JSON holds no map; as what it is it is looked at elsewhere.
    value = undefined;
  }
  return { files, path, value, rule };
}

/** What an entry is as a map: as the profile says, or as it may be guessed. */
export async function tileMapOf(gameId: number, archive: number, n: number): Promise<TileMapAnswer> {
  const { path, value, rule } = await read(gameId, archive, n);
  const answer = { rule: rule ?? null, guess: guessTileMap(value) ?? null, map: null, trouble: null };
  if (rule === undefined) return answer;
  try {
    const { width, height, layers } = readTileMap(value, rule, path);
    await findWinner(gameId, rule.tiles.picture);
    return { ...answer, map: { width, height, layers: layers.map(({ name }) => name) } };
  } catch (error) {
    return { ...answer, trouble: sayFault(faultOf(error, path)) };
  }
}

/** Says how files like this one hold a map, in the profile of the game; null takes it back. */
export async function setTileMap(
  gameId: number,
  archive: number,
  n: number,
  edit: TileMapEdit,
): Promise<TileMapAnswer> {
  const { files, path, value } = await read(gameId, archive, n);
  const profile = profileOf(await requireGame(gameId));
  const rest = profile.maps.filter((one) => one.files !== files);
  if (edit !== null) {
    readTileMap(value, edit, path);
    await findWinner(gameId, edit.tiles.picture);
  }
  const maps = edit === null ? rest : [...rest, { ...edit, files }];
  await GameModel.update({ profile: { ...profile, maps } }, { where: { id: gameId } });
  return tileMapOf(gameId, archive, n);
}

/**
 * The map as PNG, with some of its layers.
 *
 * @param shown numbers of layers; all of them without it
 * @throws FaultError `wrong-kind` when it is no map as the profile says, `not-found` when the profile says nothing of it
 */
export async function tileMapPicture(
  gameId: number,
  archive: number,
  n: number,
  shown: readonly number[] | undefined,
): Promise<{ bytes: Uint8Array; mime: string; path: string }> {
  const { path, value, rule } = await read(gameId, archive, n);
  if (rule === undefined)
    throw new FaultError({
      code: 'not-found',
      entry: path,
      what: 'the profile of the game does not say how this file holds a map',
    });
  const map = readTileMap(value, rule, path);
  const layers = shown === undefined ? map.layers : map.layers.filter((_, i) => shown.includes(i));
  const sheet = await sheetOf(gameId, rule, map);
  const order: TileMapOrder = { map: { ...map, layers }, sheet };
  const drawn = await inThread<TileMapOrder, { pixels: Uint8Array; width: number; height: number }>(
    'drawTiles',
    order,
    new AbortController().signal,
  );
  const { pixels, width, height } = drawn;
  const bytes = await sharp(pixels, { raw: { width, height, channels: 4 } })
    .png()
    .toBuffer();
  return { bytes: new Uint8Array(bytes), mime: 'image/png', path: `${path.replace(/\.[^./]*$/, '')}.png` };
}

/** The picture with all tiles, made smaller where the whole map would be too large. */
async function sheetOf(gameId: number, rule: TileMapRule, map: TileMap): Promise<TileMapOrder['sheet']> {
  const { picture: path, width, height, first } = rule.tiles;
  const { archive, n } = await findWinner(gameId, path);
  const sheet = await pictureOf(await entrySubject(archive, n));
  const { bytes } = await pictureFileAs(sheet, 'png', new AbortController().signal);
  let shrink = 1;
  while (Math.max(map.width * width, map.height * height) / shrink > MOST_SIDE && shrink < Math.min(width, height))
    shrink *= 2;
  if (Math.max(map.width, map.height) * Math.max(1, width / shrink) > MOST_SIDE * 2)
    throw new FaultError({
      code: 'limit-reached',
      entry: path,
      what: 'the map is too large to be drawn',
      limit: `pixels along a side, ${(MOST_SIDE * 2).toLocaleString('en')}`,
    });
  const image = sharp(bytes).ensureAlpha();
  const facts = await image.metadata();
  const tile = [Math.max(1, Math.floor(width / shrink)), Math.max(1, Math.floor(height / shrink))] as const;
  const columns = Math.floor((facts.width ?? 0) / width);
  const rows = Math.floor((facts.height ?? 0) / height);
  if (columns === 0 || rows === 0)
    throw new FaultError({
      code: 'wrong-kind',
      entry: path,
      what: 'the picture with the tiles is smaller than one of them',
      expected: `${width} × ${height} pixels`,
      found: `${facts.width} × ${facts.height}`,
    });
  // Only whole tiles: a rest at the edge would shift all of them.
  const { data, info } = await image
    .extract({ left: 0, top: 0, width: columns * width, height: rows * height })
    .resize(columns * tile[0], rows * tile[1], { fit: 'fill' })
    .raw()
    .toBuffer({ resolveWithObject: true });
  return { pixels: new Uint8Array(data), width: info.width, height: info.height, tile, first };
}
