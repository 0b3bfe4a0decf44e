/** Pictures that a recipe presents: its fields say what the picture is, and some of its regions hold the mips. */
import { collect, memoryScratch, type ByteSource } from '../../bytes';
import { FormatError } from '../../faults';
import { openArchive, planRebuild, regionBytes, valueIn, volumeBytes, type Archive, type Recipe } from '../../recipe';
import { checkSizes, mipBytes, type Picture } from './picture';
import { findPixelFormat, pixelFormatNames } from './pixel-formats';

/** Bytes of the mips in one region at most. */
const MOST_BYTES = 512 << 20;

/** A picture with the file it came from, which it is written back into. */
export interface RecipePicture {
  readonly picture: Picture;
  readonly file: Archive;
}

/**
 * @param files the main file first, then those beside it
 * @throws FormatError for what a file has wrong, with region, field, offset, expected and found
 */
export async function readRecipePicture(recipe: Recipe, files: readonly ByteSource[]): Promise<RecipePicture> {
  // All of a picture is in memory while it is looked at.
  const file = await openArchive(recipe, files, { limits: { maxWholeBytes: MOST_BYTES } });
  const rule = recipe.picture;
  if (rule === undefined) throw new RangeError(`${recipe.id} presents no picture`);
  const name = files[0]!.name;
  const format = findPixelFormat(String(valueIn(file, rule.format)));
  if (format === undefined)
    throw new FormatError({
      code: 'wrong-kind',
      file: name,
      recipe: recipe.id,
      line: rule.line,
      field: 'format',
      expected: `one of ${pixelFormatNames().join(', ')}`,
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
  for (const { from, first, length, align } of partsOf(file, facts.mips)) {
    const bytes = await regionBytes(file, from);
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

/**
 * The files with other pixels: everything else stays as it was found, or follows its formula.
 *
 * @param next of the size, format and mips that the file has
 * @returns the bytes of each file, in the order in which they were given
 */
export async function writeRecipePicture({ picture, file }: RecipePicture, next: Picture): Promise<Uint8Array[]> {
  const fixed = ['width', 'height', 'mips', 'depth', 'layers', 'faces'] as const;
  const other = fixed.find((field) => next[field] !== picture[field]);
  if (other !== undefined || next.format.name !== picture.format.name)
    throw new RangeError(`the ${other ?? 'format'} of the picture is another`);
  const regions = new Map<number, Uint8Array>();
  for (const { from, first, length, align } of partsOf(file, picture.mips)) {
    const levels = next.levels.slice(first, first + length);
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
    { replace: new Map(), add: [], remove: new Set(), regions },
    { scratch: memoryScratch() },
  );
  return Promise.all(plan.volumes.map((volume) => collect(volumeBytes(volume))));
}

/** The regions with mips, and which they hold; those that hold none are left out. */
function partsOf(file: Archive, mips: number) {
  return file.recipe.picture!.pixels.flatMap(({ from, first, mips: some, align }) => {
    const start = first === undefined ? 0 : Number(valueIn(file, first));
    const length = some === undefined ? mips - start : Number(valueIn(file, some));
    return length > 0 ? [{ from, first: start, length, align }] : [];
  });
}
