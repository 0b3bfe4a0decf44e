import { kindOf } from '../../game';
import type { EntryToConvert, FormConverter } from '../converter';
import { formRecipe } from '../form-recipe';
import { ifReadable } from '../if-readable';
import { asPicture } from './as-picture';
import { fitPictureFiles } from './fit-files';
import { isPackedFormat } from './formats';
import { fitRaster } from './fit-raster';
import { PICTURE_OUT, type PictureOut } from './out-formats';
import { packPicture } from './pack';
import { readPictureFiles } from './picture-files';
import { writePicture } from './write-picture';

export const pictureConverter: FormConverter<PictureOut> = {
  formats: PICTURE_OUT,
  async convert(entry, as) {
    if (!(await isPicture(entry))) return undefined;
    return { bytes: await writePicture((await pictureOf(entry)).picture, as), notes: [] };
  },
  async fit(entry, { bytes, fileName }) {
    if (!(await isPicture(entry))) return undefined;
    const { path } = entry;
    if (await isPacked(entry)) {
      const original = await ifReadable(pictureOf(entry));
      if (original === undefined) return undefined;
      const made = await fitPictureFiles(original, bytes, fileName, { pack, quality: 'best' });
      return { files: made.files, notes: made.notes };
    }
    const original = await ifReadable(entry.bytes());
    if (original === undefined) return undefined;
    if ((await ifReadable(asPicture(original, path, (picture) => picture.metadata()))) === undefined) return undefined;
    const made = await fitRaster(path, original, bytes, fileName);
    return { files: [{ path, bytes: made.bytes }], notes: made.notes };
  },
};

const recipeOf = ({ recipes, head, path }: EntryToConvert) =>
  formRecipe(
    recipes.filter(({ presents }) => presents === 'picture'),
    head,
    path,
  );

const isPicture = async (entry: EntryToConvert): Promise<boolean> =>
  kindOf(entry.path, entry.head) === 'picture' || (await recipeOf(entry)) !== undefined;

/** Kept as games keep pictures, and not as browsers show them. */
const isPacked = async (entry: EntryToConvert): Promise<boolean> =>
  isPackedFormat(entry.head, entry.path) || (await recipeOf(entry)) !== undefined;

const pictureOf = async (entry: EntryToConvert) =>
  readPictureFiles({ path: entry.path, bytes: await entry.bytes() }, await recipeOf(entry), (path) =>
    entry.companion(path),
  );

const pack: Parameters<typeof fitPictureFiles>[3]['pack'] = (...order) => Promise.resolve(packPicture(...order));
