/** Pictures that a recipe presents: its fields say what the picture is, and some of its regions hold the mips. */
import { collect, memoryScratch, type ByteSource } from '../../bytes';
import { FormatError } from '../../faults';
import {
  fieldPlace,
  openArchive,
  planRebuild,
  regionBytes,
  valueIn,
  volumeBytes,
  type Archive,
  type OpenedArchive,
  type FieldEdit,
  type Recipe,
} from '../../recipe';
import { checkSizes, mipBytes, type Picture } from './picture';
import { greyPalette, INDEXED, isIndexed, paletteFormat } from './palette';
import { findPixelFormat, pixelFormatNames, type PixelFormat } from './pixel-formats';
import { packPosts, startsWithPosts, unpackPosts } from './post-columns';

/** Bytes of the mips in one region at most. */
const MOST_BYTES = 512 << 20;

/** A picture with the file it came from, which it is written back into. */
export interface RecipePicture {
  readonly picture: Picture;
  readonly file: Archive;
}

/**
 * @param files the main file first, then those next to it
 * @throws FormatError for what a file has wrong, with region, field, offset, expected and found
 */
export async function readRecipePicture(recipe: Recipe, files: readonly ByteSource[]): Promise<RecipePicture> {
  // All of a picture is in memory while it is looked at.
  const file = await openArchive(recipe, files, { limits: { maxWholeBytes: MOST_BYTES } });
  const rule = recipe.picture;
  if (rule === undefined) throw new RangeError(`${recipe.id} presents no picture`);
  const name = files[0]!.name;
  const format = await formatOf(file, String(valueIn(file, rule.format)));
  if (format === undefined)
    throw new FormatError({
      code: 'wrong-kind',
      file: name,
      recipe: recipe.id,
      line: rule.line,
      field: 'format',
      expected: `one of ${[...pixelFormatNames(), ...INDEXED].join(', ')}`,
      found: String(valueIn(file, rule.format)),
    });
  const facts = {
    width: Number(valueIn(file, rule.width)),
    height: Number(valueIn(file, rule.height)),
    depth: 1,
    layers: 1,
    faces: 1 as const,
    mips: rule.mips === undefined ? 1 : Number(valueIn(file, rule.mips)),
    format,
    srgb: rule.srgb === undefined ? true : valueIn(file, rule.srgb) === true,
  };
  checkSizes(name, facts);
  const levels: Uint8Array[] = [];
  for (const { from, first, length, align, posts } of partsOf(file, facts.mips)) {
    const stored = await regionBytes(file, from);
    const bytes =
      posts === undefined || stored === undefined
        ? stored
        : inRegion(file, from, () => unpackPosts(stored, facts, posts));
    let at = 0;
    for (let mip = first; mip < first + length; mip++) {
      const size = mipBytes(facts, mip);
      if (bytes === undefined || at + size > bytes.length)
        throw new FormatError({
          code: 'cut-short',
          file: name,
          recipe: recipe.id,
          region: recipe.regions[from]!.name,
          what: `mip ${mip} is not there`,
          expected: `${(at + size).toLocaleString('en')} bytes`,
          found: (bytes?.length ?? 0).toLocaleString('en'),
        });
      levels[mip] = bytes.subarray(at, at + size);
      at = Math.ceil((at + size) / align) * align;
    }
  }
  return { picture: { ...facts, levels }, file };
}

/** Whether the first bytes of what may be a picture have columns of posts where its recipe says so. */
export async function pictureHeadFits(file: OpenedArchive): Promise<boolean> {
  const { width, pixels } = file.recipe.picture!;
  for (const { from, posts } of pixels) {
    if (posts === undefined) continue;
    const bytes = await regionBytes(file, from);
    if (bytes === undefined || !startsWithPosts(bytes, Number(valueIn(file, width)), Number(valueIn(file, posts))))
      return false;
  }
  return true;
}

/** The format a recipe names; that of indexed pixels has the palette of the file. */
async function formatOf({ recipe, ...file }: Archive, name: string): Promise<PixelFormat | undefined> {
  if (!isIndexed(name)) return findPixelFormat(name);
  const palette = recipe.picture!.palette;
  const colours = palette === undefined ? undefined : await regionBytes({ recipe, ...file }, palette.from);
  return colours === undefined ? greyPalette(name) : paletteFormat(name, colours, palette!.as);
}

/** What is wrong in the bytes of a region, with its name and the offset in the file. */
function inRegion<T>(file: Archive, index: number, read: () => T): T {
  try {
    return read();
  } catch (error) {
    if (!(error instanceof FormatError)) throw error;
    const offset = (file.regions.get(index)?.at ?? 0) + (error.fault.offset ?? 0);
    throw error.with({
      file: file.source.name,
      recipe: file.recipe.id,
      region: file.recipe.regions[index]!.name,
      offset,
    });
  }
}

/** What may differ in a new picture, because its file stores it. */
export interface Freedom {
  readonly size: boolean;
  readonly mips: boolean;
  /** Names of the formats that it may be packed in. */
  readonly formats: readonly string[];
}

/** What the fields of a file leave free: those that are fields and nothing else, and follow no formula. */
export function freedomOf({ file, picture }: RecipePicture): Freedom {
  const { width, height, format, mips } = file.recipe.picture!;
  const place = (formula: typeof mips) => (formula === undefined ? undefined : fieldPlace(file, formula));
  return {
    size: place(width) !== undefined && place(height) !== undefined,
    mips: place(mips) !== undefined,
    formats: place(format)?.names ?? [named(picture)],
  };
}

/**
 * The files with other pixels: everything else stays as it was found, or follows its formula.
 *
 * @param next of the size, format and mips that the file has, or of others that its fields leave free
 * @returns the bytes of each file, in the order in which they were given
 * @throws RangeError for what they do not
 */
export async function writeRecipePicture({ picture, file }: RecipePicture, next: Picture): Promise<Uint8Array[]> {
  const regions = new Map<number, Uint8Array>();
  for (const { from, first, length, align, posts } of partsOf(file, next.mips)) {
    const levels = next.levels
      .slice(first, first + length)
      .map((level, i) => withSameIndices(picture, next, first + i, level));
    if (posts !== undefined) {
      regions.set(from, packPosts(levels[0]!, next, posts));
      continue;
    }
    const bytes = new Uint8Array(levels.reduce((sum, level) => sum + Math.ceil(level.length / align) * align, 0));
    let at = 0;
    for (const level of levels) {
      bytes.set(level, at);
      at += Math.ceil(level.length / align) * align;
    }
    regions.set(from, bytes);
  }
  const plan = await planRebuild(
    file,
    { replace: new Map(), add: [], remove: new Set(), regions, values: editsOf({ picture, file }, next) },
    { scratch: memoryScratch() },
  );
  return Promise.all(plan.volumes.map((volume) => collect(volumeBytes(volume))));
}

/** Of several equal colours of a palette, a pixel keeps the one it had: games give their numbers a meaning. */
function withSameIndices(before: Picture, next: Picture, mip: number, level: Uint8Array): Uint8Array {
  const { format, width } = next;
  const old = before.levels[mip];
  if (format.palette === undefined || old === undefined || before.format !== format || before.width !== width)
    return level;
  const { colours } = format.palette;
  const isSame = (a: number, b: number) => [0, 1, 2, 3].every((c) => colours[a * 4 + c] === colours[b * 4 + c]);
  const kept = new Uint8Array(level);
  for (let at = 0; at < Math.min(level.length, old.length); at += format.bytes)
    if (kept[at] !== old[at] && isSame(kept[at]!, old[at]!)) kept[at] = old[at]!;
  return kept;
}

function editsOf({ picture, file }: RecipePicture, next: Picture): FieldEdit[] {
  const rule = file.recipe.picture!;
  const fixed = (['depth', 'layers', 'faces'] as const).find((field) => next[field] !== picture[field]);
  if (fixed !== undefined) throw new RangeError(`the ${fixed} of the picture is another`);
  const stored = [
    { what: 'width', formula: rule.width, before: picture.width, value: next.width },
    { what: 'height', formula: rule.height, before: picture.height, value: next.height },
    { what: 'mips', formula: rule.mips, before: picture.mips, value: next.mips },
    { what: 'format', formula: rule.format, before: named(picture), value: named(next) },
  ];
  return stored
    .filter(({ before, value }) => before !== value)
    .map(({ what, formula, value }) => {
      const place = formula === undefined ? undefined : fieldPlace(file, formula);
      if (place === undefined || (place.names !== undefined && !place.names.includes(String(value))))
        throw new RangeError(`the ${what} of the picture is another`);
      return { place, value };
    });
}

/** A format as recipes name it. */
const named = ({ format }: Picture): string => format.palette?.of ?? format.name;

/** The regions with mips, and which they hold; those that hold none are left out. */
function partsOf(file: Archive, mips: number) {
  return file.recipe.picture!.pixels.flatMap(({ from, first, mips: some, align, posts }) => {
    const start = first === undefined ? 0 : Number(valueIn(file, first));
    const length = some === undefined ? mips - start : Number(valueIn(file, some));
    const before = posts === undefined ? undefined : Number(valueIn(file, posts));
    return length > 0 ? [{ from, first: start, length, align, posts: before }] : [];
  });
}
