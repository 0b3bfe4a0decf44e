import { bufferSource } from '../../bytes';
import { kindOf } from '../../game';
import { companionNames, matches } from '../../recipe';
import type { EntryToConvert, FormConverter } from '../converter';
import { readPicture } from './open-pictures';
import { PICTURE_OUT, type PictureOut } from './out-formats';
import type { Picture } from './picture';
import { readRecipePicture } from './recipe-picture';
import { writePicture } from './write-picture';

async function pictureOf({ path, head, bytes, recipes, beside }: EntryToConvert): Promise<Picture | undefined> {
  const first = bufferSource(head, path);
  for (const recipe of recipes) {
    if (recipe.presents !== 'picture' || recipe.match.length === 0 || !(await matches(recipe, first))) continue;
    const folder = path.slice(0, path.lastIndexOf('/') + 1);
    const files = [bufferSource(await bytes(), path)];
    for (const name of companionNames(recipe, path)) {
      const other = folder + name;
      const half = await beside(other);
      if (half !== undefined) files.push(bufferSource(half, other));
    }
    return (await readRecipePicture(recipe, files)).picture;
  }
  return kindOf(path, head) === 'picture' ? (await readPicture(await bytes(), path)).picture : undefined;
}

export const pictureConverter: FormConverter<PictureOut> = {
  formats: PICTURE_OUT,
  async convert(entry, as) {
    const picture = await pictureOf(entry);
    return picture && { bytes: await writePicture(picture, as), notes: [] };
  },
};
