/** The part `font`: which rows are letters, and where each is in a picture. */
import type { Names } from '../formula/names';
import type { TextPath } from '../language/yaml-text';
import type { Binding, FontRule, Formula } from '../model';
import { bindingOf } from './compile-bindings';
import { checkForm, formulasOf, type Setting } from './setting';

/** @throws FormatError `recipe-invalid` when a recipe presents a font and does not say how, or the other way round */
export function compileFont(setting: Setting): FontRule | undefined {
  checkForm('font', setting);
  const { parsed, names } = setting;
  const { font } = parsed.recipe;
  if (font === undefined) return undefined;
  const whole = formulasOf(font, ['font'], setting, names);
  const { each, formula } = rows(font.glyphs, ['font', 'glyphs'], setting);
  return {
    line: parsed.lineOf(['font']),
    size: whole('size')!,
    lineHeight: whole('line'),
    base: whole('base')!,
    glyphs: {
      each,
      code: formula('code')!,
      page: formula('page')!,
      x: formula('x')!,
      y: formula('y')!,
      width: formula('width')!,
      height: formula('height')!,
      left: formula('left'),
      top: formula('top'),
      advance: formula('advance')!,
    },
    kerning: compileKerning(setting),
  };
}

function compileKerning(setting: Setting): FontRule['kerning'] {
  const text = setting.parsed.recipe.font?.kerning;
  if (text === undefined) return undefined;
  const { each, formula } = rows(text, ['font', 'kerning'], setting);
  return { each, first: formula('first')!, second: formula('second')!, amount: formula('amount')! };
}

/** The rows that a part names, and its formulas, which see the fields of a row. */
function rows<T extends { readonly each: string }>(
  text: T,
  path: TextPath,
  setting: Setting,
): { each: Binding; formula: (key: keyof T & string) => Formula | undefined } {
  const each = bindingOf(text.each, [...path, 'each'], setting);
  const names: Names = { ...setting.names, rows: [{ name: each.name, shape: each.shape }] };
  return { each, formula: formulasOf(text, path, setting, names) };
}
