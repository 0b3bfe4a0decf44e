/** A dropped picture as the game keeps the one it replaces, in all the files that hold it. */
import type { Note } from '../../notes';
import { bufferSource } from '../../bytes';
import { FaultError } from '../../faults';
import { fitPicture as fitTo, type Packer } from './expectation';
import { openFormat, readPicture, type OpenPicture, type PictureFormat } from './formats';
import type { Quality } from './pack';
import { unpackLevel, type Picture } from './picture';
import type { PictureFile, PictureOfFiles } from './picture-files';
import { resized, writePng } from './raster';
import { freedomOf, readRecipePicture, writeRecipePicture, type Freedom } from './recipe-picture';
import { joinPart, parseSplit } from './split';

export interface FittedFiles {
  /** The files that change, the main one first. */
  readonly files: readonly PictureFile[];
  readonly notes: readonly Note[];
}

/** How a picture is made to fit. */
export interface PictureFit {
  /** Makes mips and packs them. */
  readonly pack: Packer;
  readonly quality: Quality;
  /** How it is packed is chosen by its pixels, where the file leaves that free. */
  readonly chosen?: boolean;
  /** It keeps its own size, where the file leaves that free. */
  readonly ownSize?: boolean;
}

/**
 * @param dropped bytes of a picture in an open format
 * @throws FormatError `wrong-kind` when they are none, or cannot be made to fit
 */
export async function fitPictureFiles(
  original: PictureOfFiles,
  dropped: Uint8Array,
  fileName: string,
  { pack, quality, chosen = false, ownSize = false }: PictureFit,
): Promise<FittedFiles> {
  const given = await readPicture(dropped, fileName);
  const main = original.files[0]!;
  if (isStoredAlike(original, given, dropped))
    return { files: [{ path: main.path, bytes: dropped }], notes: [{ code: 'picture-as-packed' }] };
  const free = freedom(original);
  const { picture, notes: made } = await fitTo(original.picture, given.picture, fileName, {
    quality,
    pack,
    formats: chosen ? free.formats : undefined,
    ownSize: ownSize && free.size && free.mips,
  });
  const notes: Note[] = made.length > 0 ? [...made] : [{ code: 'picture-as-packed' }];
  if (original.is === 'recipe') {
    const written = await writeRecipePicture(original.read, picture);
    await checkReadsBack(original, written, picture);
    const files = written.flatMap((bytes, i) => {
      const before = original.files[i]!;
      return Buffer.compare(bytes, before.bytes) === 0 ? [] : [{ path: before.path, bytes }];
    });
    if (files.length > 1) notes.push({ code: 'picture-entries-together', count: files.length });
    return { files, notes };
  }
  return { files: [{ path: main.path, bytes: await written(original, picture) }], notes };
}

/** Whether a file is stored as the original is, so that what reads the one reads the other; its palette may be its own. */
function isStoredAlike(original: PictureOfFiles, given: OpenPicture, dropped: Uint8Array): boolean {
  if (original.is === 'recipe' || original.is !== given.is) return false;
  const { storage } = openFormat(given.is);
  const main = original.files[0]!;
  const { width, height } = original.picture;
  return (
    storage !== undefined &&
    storage(dropped, main.path) === storage(main.bytes, main.path) &&
    given.picture.width === width &&
    given.picture.height === height
  );
}

/**
 * What was written is read as anybody reads it: a size or a packing that the header cannot tell is found here, and not by the
 * game.
 *
 * @throws FaultError `not-reproduced`
 */
async function checkReadsBack(
  { recipe, files }: Extract<PictureOfFiles, { is: 'recipe' }>,
  written: readonly Uint8Array[],
  wanted: Picture,
): Promise<void> {
  const sources = written.map((bytes, i) => bufferSource(bytes, files[i]!.path));
  const found = await readRecipePicture(recipe, sources).then(
    ({ picture }) => picture,
    () => undefined,
  );
  const same =
    found?.width === wanted.width &&
    found.height === wanted.height &&
    found.format.name === wanted.format.name &&
    found.levels.length === wanted.levels.length &&
    found.levels.every((level, i) => Buffer.compare(level, wanted.levels[i]!) === 0);
  if (same) return;
  throw new FaultError({
    code: 'not-reproduced',
    entry: files[0]!.path,
    recipe: recipe.id,
    what: 'the picture does not read back as it was meant',
    expected: `${wanted.width} × ${wanted.height}, ${wanted.format.title}, ${wanted.mips} mips`,
    hint: 'Keep the size and the packing of the original.',
  });
}

/** A part of a packed picture, such as its alpha, put into the picture as it is now. @returns PNG */
export async function joinedPart(
  { picture }: PictureOfFiles,
  dropped: Uint8Array,
  fileName: string,
  { rule, suffix }: { readonly rule: string; readonly suffix: string },
): Promise<Uint8Array> {
  const part = parseSplit(rule).find((one) => one.suffix === suffix)!;
  const packed = unpackLevel(picture, { mip: 0 });
  const given = unpackLevel((await readPicture(dropped, fileName)).picture, { mip: 0 });
  const same = given.width === packed.width && given.height === packed.height;
  return writePng(joinPart(packed, part, same ? given : await resized(given, packed.width, packed.height)));
}

/** Packings that every reader of DDS and KTX2 knows. */
const OPEN_FORMATS = ['bc1', 'bc3', 'bc5', 'bc7'];

/** What may be otherwise in the file of a picture. */
export function freedom(original: PictureOfFiles): Freedom {
  if (original.is === 'recipe') return freedomOf(original.read);
  const { layers, faces, depth } = original.picture;
  const open = layers * faces * depth === 1 && openFormat(original.is).isFree === true;
  return { size: open, mips: open, formats: open ? OPEN_FORMATS : [] };
}

async function written(
  { is, files }: Extract<PictureOfFiles, { is: PictureFormat }>,
  picture: Picture,
): Promise<Uint8Array> {
  const [main] = files;
  const { graft, title } = openFormat(is);
  if (graft !== undefined) return graft(main!.bytes, picture, main!.path);
  if (is === 'png') return writePng(unpackLevel(picture, { mip: 0 }));
  throw new FaultError({
    code: 'wrong-kind',
    entry: main!.path,
    what: `${title} is read and not written`,
    hint: `Bring a file that is ${title} already.`,
  });
}

/** A picture in an open format as PNG, for what takes no other. */
export async function asPng(bytes: Uint8Array, fileName: string): Promise<Uint8Array> {
  const { picture, is } = await readPicture(bytes, fileName);
  return openFormat(is).isRaster === true ? bytes : writePng(unpackLevel(picture, { mip: 0 }));
}
