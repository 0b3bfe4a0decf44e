import { kindOf } from '../../game';
import type { FormConverter } from '../converter';
import { formRecipe } from '../form-recipe';
import { PICTURE_OUT, type PictureOut } from './out-formats';
import { readPictureFiles } from './picture-files';
import { writePicture } from './write-picture';

export const pictureConverter: FormConverter<PictureOut> = {
  formats: PICTURE_OUT,
  async convert({ path, head, bytes, recipes, beside }, as) {
    const presenting = recipes.filter(({ presents }) => presents === 'picture');
    const recipe = await formRecipe(presenting, head, path);
    if (recipe === undefined && kindOf(path, head) !== 'picture') return undefined;
    const { picture } = await readPictureFiles({ path, bytes: await bytes() }, recipe, beside);
    return { bytes: await writePicture(picture, as), notes: [] };
  },
};
