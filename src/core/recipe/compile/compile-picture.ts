/** The `picture` part: which fields tell what of a picture, and where its mips are. */
import type { FieldPlace, Formula, PictureRule, Region } from '../model';
import { formulasOf, invalid, type Setting } from './setting';

/** @throws FormatError `recipe-invalid` when a recipe presents a picture and does not say how, or the other way round */
export function compilePicture(regions: readonly Region[], setting: Setting): PictureRule | undefined {
  const { parsed, names } = setting;
  const { picture, presents } = parsed.recipe;
  const line = parsed.lineOf(['picture']);
  if ((picture === undefined) !== (presents !== 'picture'))
    throw invalid(
      parsed.lineOf([picture === undefined ? 'presents' : 'picture']),
      picture === undefined
        ? 'a picture needs the part that says which fields tell it'
        : 'only a picture has that part',
      picture === undefined ? 'picture: { width: …, height: …, format: …, pixels: [ … ] }' : 'presents: picture',
    );
  if (picture === undefined) return undefined;
  const formula = formulasOf(picture, ['picture'], setting, names);
  return {
    line,
    width: formula('width')!,
    height: formula('height')!,
    format: formula('format')!,
    srgb: formula('srgb'),
    mips: formula('mips'),
    pixels: picture.pixels.map((part, i) => {
      const path = ['picture', 'pixels', i] as const;
      const of: (key: 'first' | 'mips') => Formula | undefined = formulasOf(part, path, setting, names);
      return {
        from: fieldPlace(part.from, parsed.lineOf([...path, 'from']), regions),
        first: of('first'),
        mips: of('mips'),
        align: part.align ?? 1,
      };
    }),
  };
}

/** `large.pixels`: a field of the shape that a region holds. */
function fieldPlace(text: string, line: number, regions: readonly Region[]): FieldPlace {
  const [, regionName, fieldName] = /^\s*([\w-]+)\.([\w-]+)\s*$/.exec(text) ?? [];
  const region = regions.find(({ name }) => name === regionName);
  const type = typeof region?.holds === 'object' ? region.holds.type : undefined;
  const field = type?.kind === 'shape' ? type.shape.indexOf(fieldName!) : -1;
  if (region === undefined || field < 0)
    throw invalid(line, `there is no field ${text}`, 'REGION.FIELD, of a region that holds one shape');
  return { region: region.index, field };
}
