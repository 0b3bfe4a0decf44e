import type { FormConverter } from '../converter';
import { fontAs, fontContainer } from './containers';
import { FONT_OUT, type FontOut } from './out-formats';

/** Fonts with outlines; those that a recipe presents have only pictures of letters, which are entries of their own. */
export const fontConverter: FormConverter<FontOut> = {
  formats: FONT_OUT,
  async convert({ path, head, bytes }, as) {
    const container = fontContainer(head);
    if (container === undefined || container === 'TrueType collection') return undefined;
    return { bytes: await fontAs(await bytes(), as, path), notes: [] };
  },
};
