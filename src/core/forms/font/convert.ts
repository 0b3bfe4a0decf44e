import { FormatError } from '../../faults';
import type { FormConverter } from '../converter';
import { ifReadable } from '../if-readable';
import { CONTAINER_FORMATS, fontAs, fontContainer } from './containers';
import { compareFonts } from './fit-font';
import { readOpenFont } from './open-font';
import { FONT_OUT, type FontOut } from './out-formats';

/** Fonts with outlines; those that a recipe presents have only pictures of letters, which are entries of their own. */
export const fontConverter: FormConverter<FontOut> = {
  formats: FONT_OUT,
  async convert({ path, head, bytes }, as) {
    const container = fontContainer(head);
    if (container === undefined || container === 'TrueType collection') return undefined;
    return { bytes: await fontAs(await bytes(), as, path), notes: [] };
  },
  async fit({ path, head, bytes }, { bytes: given, fileName }) {
    const container = fontContainer(head);
    if (container === undefined) return undefined;
    const before = await ifReadable(bytes().then((all) => readOpenFont(all, path)));
    if (before === undefined) return undefined;
    const notes = compareFonts(before, await readOpenFont(given, fileName));
    if (fontContainer(given) === container) return { files: [{ path, bytes: given }], notes };
    const as = CONTAINER_FORMATS[container];
    if (as === undefined)
      throw new FormatError({
        code: 'wrong-kind',
        file: fileName,
        entry: path,
        what: 'it cannot take the place of this font',
        expected: `a font in ${container}`,
      });
    const made = await fontAs(given, as, fileName);
    return { files: [{ path, bytes: made }], notes: [{ code: 'font-converted', to: container }, ...notes] };
  },
};
