/** The `picture` part: which fields tell what of a picture, and where its mips are. */
import type { Names } from '../formula/names';
import type { TextPath } from '../language/yaml-text';
import type { Formula, PictureRule, RectanglesRule, Region } from '../model';
import { bindingOf } from './compile-bindings';
import { checkForm, formulasOf, regionOfBytes, type Setting } from './setting';

/** @throws FormatError `recipe-invalid` when a recipe presents a picture and does not say how, or the other way round */
export function compilePicture(regions: readonly Region[], setting: Setting): PictureRule | undefined {
  const { parsed, names } = setting;
  const { picture } = parsed.recipe;
  checkForm('picture', setting);
  const line = parsed.lineOf(['picture']);
  if (picture === undefined) return undefined;
  const formula = formulasOf(picture, ['picture'], setting, names);
  return {
    line,
    width: formula('width')!,
    height: formula('height')!,
    format: formula('format')!,
    srgb: formula('srgb'),
    mips: formula('mips'),
    palette:
      picture.palette === undefined
        ? undefined
        : {
            from: regionOfBytes(picture.palette.from, parsed.lineOf(['picture', 'palette', 'from']), regions),
            as: picture.palette.as,
          },
    pixels: picture.pixels.map((part, i) => {
      const path = ['picture', 'pixels', i] as const;
      const of: (key: 'first' | 'mips' | 'posts') => Formula | undefined = formulasOf(part, path, setting, names);
      return {
        from: regionOfBytes(part.from, parsed.lineOf([...path, 'from']), regions),
        first: of('first'),
        mips: of('mips'),
        align: part.align ?? 1,
        posts: of('posts'),
      };
    }),
    rectangles: compileRectangles(setting),
  };
}

function compileRectangles(setting: Setting): RectanglesRule | undefined {
  const text = setting.parsed.recipe.picture?.rectangles;
  if (text === undefined) return undefined;
  const path: TextPath = ['picture', 'rectangles'];
  const each = bindingOf(text.each, [...path, 'each'], setting);
  const names: Names = { ...setting.names, rows: [{ name: each.name, shape: each.shape }] };
  const formula = formulasOf(text, path, setting, names);
  return {
    line: setting.parsed.lineOf(path),
    each,
    name: formula('name')!,
    x: formula('x')!,
    y: formula('y')!,
    width: formula('width')!,
    height: formula('height')!,
  };
}
