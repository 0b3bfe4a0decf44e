/** Sheets: small pictures that lie in a large one, each with a name. They are taken out one by one, and go back in place. */
import { FormatError } from '../../faults';
import { rowValues } from '../../recipe';
import { makeMips } from './mips';
import { packPixels, type Quality } from './pack';
import { mipSide, packOneByOne, unpackLevel, type Picture, type Pixels } from './picture';
import { findPixelFormat, levelBytes, type PixelFormat } from './pixel-formats';
import type { RecipePicture } from './recipe-picture';
import { unpackPixels } from './unpack';

/** In pixels of the largest mip. */
export interface Rectangle {
  readonly name: string;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** More small pictures than this no sheet has. */
const MOST = 100_000;

/**
 * The small pictures of a sheet, in the order of the file; none when its recipe has none.
 *
 * @throws FormatError `wrong-kind` for one that does not lie in the picture, LimitError for too many
 */
export function rectanglesOf({ picture, file }: RecipePicture): Rectangle[] {
  const rule = file.recipe.picture?.rectangles;
  if (rule === undefined) return [];
  const rows = rowValues(file, rule.each, [rule.name, rule.x, rule.y, rule.width, rule.height]);
  const refuse = (row: number, what: string, found: string) =>
    new FormatError({
      code: 'wrong-kind',
      file: file.source.name,
      recipe: file.recipe.id,
      line: rule.line,
      field: `rectangle ${row}`,
      what,
      expected: `a place in ${picture.width} × ${picture.height} pixels`,
      found,
    });
  if (rows.length > MOST) throw refuse(MOST, 'the sheet has too many small pictures', String(rows.length));
  return rows.map(([name, ...numbers], i) => {
    const [x, y, width, height] = numbers.map(Number) as [number, number, number, number];
    const inside =
      x >= 0 && y >= 0 && width > 0 && height > 0 && x + width <= picture.width && y + height <= picture.height;
    if (!inside || !numbers.every((one) => Number.isInteger(Number(one))))
      throw refuse(i, 'a small picture does not lie in the sheet', `${x}, ${y}, ${width} × ${height}`);
    return { name: String(name), x, y, width, height };
  });
}

/**
 * One small picture as a picture of its own, without mips. Where it starts with a block it is as it is packed; otherwise
 * its pixels lie one by one, for a block cannot be parted.
 */
export function cutRectangle(sheet: Picture, { x, y, width, height }: Rectangle): Picture {
  const { format, srgb } = sheet;
  const { side } = format;
  const facts = { width, height, depth: 1, layers: 1, faces: 1 as const, mips: 1, srgb };
  const place = { x, y, width, height };
  if (x % side === 0 && y % side === 0)
    return { ...facts, format, levels: [takeBlocks(sheet.levels[0]!, sheet.width, format, place)] };
  const plain = findPixelFormat('rgba8')!;
  const pixels = cutPixels(sheet, sheet.levels[0]!, 0, place);
  return { ...facts, format: plain, levels: [packOneByOne(plain, pixels)] };
}

/**
 * The sheet with other pixels in some of its places. Blocks that hold no pixel of these stay byte for byte; those on the
 * edge of a place, which hold some of a neighbour, are packed again with the neighbour's pixels as they were.
 *
 * @param pastes pictures of exactly the sizes of their places
 */
export function pasteRectangles(
  sheet: Picture,
  pastes: readonly { readonly place: Rectangle; readonly picture: Picture }[],
  quality: Quality,
): Picture {
  const levels = sheet.levels.map((level) => new Uint8Array(level));
  for (const { place, picture } of pastes) {
    const full = unpackLevel(picture, { mip: 0 });
    // Places that start with a whole pixel of a mip get their own mips; the others the nearest that there is.
    const mips = makeMips(full, { srgb: sheet.srgb, count: sheet.mips });
    for (let mip = 0; mip < sheet.mips; mip++) {
      const same = mip === 0 && picture.format.name === sheet.format.name && isOnBlocks(place, sheet);
      if (same) putBlocks(levels[0]!, sheet.width, sheet.format, place, picture.levels[0]!);
      else pastePixels(levels, sheet, mip, place, mips[mip]!, quality);
    }
  }
  return { ...sheet, levels };
}

/** Its edges are edges of blocks, on all sides or where the sheet ends. */
function isOnBlocks({ x, y, width, height }: Rectangle, { format: { side }, width: w, height: h }: Picture): boolean {
  const ends = (to: number, whole: number) => to % side === 0 || to === whole;
  return x % side === 0 && y % side === 0 && ends(x + width, w) && ends(y + height, h);
}

function pastePixels(
  levels: Uint8Array[],
  sheet: Picture,
  mip: number,
  place: Rectangle,
  pixels: Pixels,
  quality: Quality,
): void {
  const { format } = sheet;
  const [width, height] = [mipSide(sheet.width, mip), mipSide(sheet.height, mip)];
  const [x, y] = [place.x >> mip, place.y >> mip];
  // A place never reaches beyond what its own pixels cover in this mip.
  const [endX, endY] = [
    Math.min(width, Math.max(x + 1, (place.x + place.width) >> mip)),
    Math.min(height, Math.max(y + 1, (place.y + place.height) >> mip)),
  ];
  const blocks = blocksAround({ x, y, width: endX - x, height: endY - y }, { width, height }, format);
  // What is next to the place in its blocks is as it was, unpacked.
  const around = cutPixels(sheet, levels[mip]!, mip, blocks);
  for (let row = y; row < endY; row++)
    for (let column = x; column < endX; column++) {
      const from = (Math.min(row - y, pixels.height - 1) * pixels.width + Math.min(column - x, pixels.width - 1)) * 4;
      const to = ((row - blocks.y) * blocks.width + column - blocks.x) * 4;
      around.rgba.set(pixels.rgba.subarray(from, from + 4), to);
    }
  putBlocks(levels[mip]!, width, format, blocks, packPixels(format, around, quality));
}

type Area = Omit<Rectangle, 'name'>;

/** The area in whole blocks, as far as the level goes. */
function blocksAround(
  { x, y, width, height }: Area,
  level: { readonly width: number; readonly height: number },
  { side }: PixelFormat,
): Area {
  const [left, top] = [Math.floor(x / side) * side, Math.floor(y / side) * side];
  const [right, bottom] = [Math.ceil((x + width) / side) * side, Math.ceil((y + height) / side) * side];
  return { x: left, y: top, width: Math.min(level.width, right) - left, height: Math.min(level.height, bottom) - top };
}

/** The pixels of an area of a level; only the blocks that it touches are unpacked. */
function cutPixels(sheet: Picture, level: Uint8Array, mip: number, area: Area): Pixels {
  const size = { width: mipSide(sheet.width, mip), height: mipSide(sheet.height, mip) };
  const blocks = blocksAround(area, size, sheet.format);
  const packed = takeBlocks(level, size.width, sheet.format, blocks);
  const unpacked = unpackPixels(sheet.format, packed, blocks.width, blocks.height);
  const rgba = new Uint8Array(area.width * area.height * 4);
  for (let row = 0; row < area.height; row++) {
    const at = ((area.y - blocks.y + row) * blocks.width + area.x - blocks.x) * 4;
    rgba.set(unpacked.subarray(at, at + area.width * 4), row * area.width * 4);
  }
  return { width: area.width, height: area.height, rgba };
}

/** The packed bytes of an area that starts with a block. */
function takeBlocks(level: Uint8Array, width: number, format: PixelFormat, area: Area): Uint8Array {
  const out = new Uint8Array(levelBytes(format, area.width, area.height));
  for (const { at, from, length } of blockRows(width, format, area)) out.set(level.subarray(at, at + length), from);
  return out;
}

function putBlocks(level: Uint8Array, width: number, format: PixelFormat, area: Area, bytes: Uint8Array): void {
  for (const { at, from, length } of blockRows(width, format, area)) level.set(bytes.subarray(from, from + length), at);
}

/** Rows of blocks of an area: where each is in the level, and in the area by itself. */
function* blockRows(width: number, { side, bytes }: PixelFormat, area: Area) {
  const across = Math.ceil(width / side);
  const length = Math.ceil(area.width / side) * bytes;
  for (let row = 0; row < Math.ceil(area.height / side); row++)
    yield { at: ((area.y / side + row) * across + area.x / side) * bytes, from: row * length, length };
}
