/** A server thread for work that wants a core of its own: name patterns over hashes, keys in a file, packing pictures. */
import { openFile } from '../core/bytes/node';
import {
  findPixelFormat,
  packPicture,
  unpackLevel,
  writePicture,
  type Picture,
  type PictureOut,
  type Pixels,
  type Quality,
  type SplitPart,
} from '../core/forms/picture';
import { drawTileMap, type TileMap, type TileSheet } from '../core/forms/records';
import { searchKeys, type FoundKey } from '../core/keysearch';
import { HashTargets, parsePattern, searchPattern, type WordLists } from '../core/names';
import { compileRecipe, keyProbe, type Value } from '../core/recipe';

export interface PatternOrder {
  readonly pattern: string;
  readonly words: WordLists;
  /** The recipe whose rule hashes the paths. */
  readonly recipe: string;
  readonly targets: readonly Value[];
  readonly from: number;
  readonly to: number;
}

/** Matches of one search that are kept; a rule of few bits would match without end. */
const MAX_MATCHES = 1_000_000;

/** The paths of a range of a pattern whose hash is wanted. */
export async function searchNames(order: PatternOrder): Promise<string[]> {
  const hashing = compileRecipe(order.recipe).entries.hashing;
  if (hashing === undefined) return [];
  const found: string[] = [];
  const pattern = parsePattern(order.pattern, order.words);
  await searchPattern(pattern, hashing, new HashTargets(order.targets), order, (path) => {
    if (found.length < MAX_MATCHES) found.push(path);
  });
  return found;
}

export interface KeyOrder {
  /** The recipe and the files of the locked archive, the main one first. */
  readonly recipe: string;
  readonly files: readonly { readonly path: string; readonly name: string }[];
  readonly slot: string;
  /** Keys of its other slots. */
  readonly keys: ReadonlyMap<string, Uint8Array>;
  /** The file that is looked through. */
  readonly haystack: string;
  readonly from: number;
  readonly to: number;
}

/** The keys of a range of a file that open an archive. */
export async function findKeys({ recipe, files, slot, keys, haystack, from, to }: KeyOrder): Promise<FoundKey[]> {
  const opened = [];
  try {
    for (const { path, name } of files) opened.push(await openFile(path, name));
    const probe = await keyProbe(compileRecipe(recipe), [...opened], slot, keys);
    if (probe === undefined) return [];
    const source = await openFile(haystack);
    opened.push(source);
    return await searchKeys(source, probe, { from, to });
  } finally {
    for (const source of opened) await source.close();
  }
}

export interface PackOrder {
  readonly pixels: Pixels;
  /** The name of the pixel format. */
  readonly format: string;
  readonly srgb: boolean;
  readonly normals: boolean;
  readonly mips: number;
  readonly quality: Quality;
}

/** The packed bytes of each mip. */
export function packMips({ pixels, format, srgb, normals, mips, quality }: PackOrder): readonly Uint8Array[] {
  return packPicture(pixels, findPixelFormat(format)!, { srgb, normals, count: mips, quality }).levels;
}

/** A picture as it crosses to a thread: its format by name. */
export type SentPicture = Omit<Picture, 'format'> & { readonly format: string };

export interface PictureAsOrder {
  readonly picture: SentPicture;
  readonly as: PictureOut;
  readonly mip: number;
  readonly part: SplitPart | undefined;
}

export interface UnpackOrder {
  readonly picture: SentPicture;
  readonly mip: number;
}

/** The pixels of a mip. */
export function unpack({ picture, mip }: UnpackOrder): Pixels {
  return unpackLevel({ ...picture, format: findPixelFormat(picture.format)! }, { mip });
}

/** A picture in an open format. */
export async function pictureAs({ picture, as, mip, part }: PictureAsOrder): Promise<Uint8Array> {
  return writePicture({ ...picture, format: findPixelFormat(picture.format)! }, as, { mip, part });
}

export interface TileMapOrder {
  readonly map: TileMap;
  readonly sheet: TileSheet;
}

/** A map of tile layers as RGBA. */
export function drawTiles({ map, sheet }: TileMapOrder): ReturnType<typeof drawTileMap> {
  return drawTileMap(map, sheet);
}
