/** Sounds that a recipe describes: by the row of the entry, or by fields of the entry itself. */
import { bufferSource, collect, memoryScratch } from '../../bytes';
import { FormatError } from '../../faults';
import {
  entryFieldPlace,
  entryValue,
  NO_EDITS,
  openArchive,
  planRebuild,
  regionBytes,
  valueIn,
  volumeBytes,
  type Archive,
  type FieldEdit,
  type Formula,
  type Recipe,
  type Value,
} from '../../recipe';
import { SOUND_CODECS, USUAL_BLOCK, type SoundFormat } from './sound';

/**
 * The format of an entry as its recipe states it; undefined when the recipe says nothing about sounds.
 *
 * @throws FormatError `wrong-kind` for a codec that is not known, or numbers that no sound has
 */
export function soundFormatOf(archive: Archive, n: number): SoundFormat | undefined {
  const rule = archive.recipe.entries.sound;
  if (rule === undefined) return undefined;
  return formatBy(rule, (formula) => entryValue(archive, n, formula), archive.recipe, archive.entries.path(n));
}

/** An entry that is a sound by the fields it begins with. */
export interface RecipeSound {
  readonly format: SoundFormat;
  /** Its samples, as the codec packs them. */
  readonly samples: Uint8Array;
  readonly file: Archive;
}

/** @throws FormatError for what the file has wrong, with region, field, offset, expected and found */
export async function readRecipeSound(recipe: Recipe, bytes: Uint8Array, path: string): Promise<RecipeSound> {
  const rule = recipe.sound;
  if (rule === undefined) throw new RangeError(`${recipe.id} presents no sound`);
  const file = await openArchive(recipe, bufferSource(bytes, path));
  const format = formatBy(rule, (formula) => valueIn(file, formula), recipe, path);
  return { format, samples: (await regionBytes(file, rule.from)) ?? new Uint8Array(0), file };
}

/** The file with other samples of the same format; what else it has stays, or follows its formula. */
export async function writeRecipeSound({ file }: RecipeSound, samples: Uint8Array): Promise<Uint8Array> {
  const regions = new Map([[file.recipe.sound!.from, samples]]);
  const plan = await planRebuild(file, { ...NO_EDITS, regions }, { scratch: memoryScratch() });
  return collect(volumeBytes(plan.volumes[0]!));
}

function formatBy(
  rule: NonNullable<Recipe['entries']['sound']>,
  evaluate: (formula: Formula) => Value,
  recipe: Recipe,
  name: string,
): SoundFormat {
  const value = (formula: Formula | undefined) => (formula === undefined ? undefined : evaluate(formula));
  const stated = String(value(rule.codec));
  const codec = SOUND_CODECS.find((one) => one === stated);
  const refuse = (field: string, expected: string, found: unknown) =>
    new FormatError({
      code: 'wrong-kind',
      entry: name,
      recipe: recipe.id,
      line: rule.line,
      field,
      expected,
      found: String(found),
    });
  if (codec === undefined) throw refuse('codec', SOUND_CODECS.join(', '), stated);
  const rate = Number(value(rule.rate));
  if (!(rate >= 1000 && rate <= 384_000)) throw refuse('rate', '1,000 to 384,000 samples a second', rate);
  const channels = Number(value(rule.channels) ?? 1);
  if (!(channels >= 1 && channels <= 8)) throw refuse('channels', '1 to 8', channels);
  const most = value(rule.most);
  const length = value(rule.samples);
  const loops = value(rule.loop) === true;
  return {
    codec,
    rate,
    channels,
    block: Number(value(rule.block) ?? USUAL_BLOCK),
    loop: loops ? [Number(value(rule.loopStart) ?? 0), Number(value(rule.loopEnd) ?? 0)] : undefined,
    ...(length === undefined ? {} : { length: Number(length) }),
    ...(most === undefined ? {} : { most: Number(most) }),
  };
}

/**
 * What has to be written into the row of an entry so that it is played over and over between other samples.
 *
 * @returns undefined when the row does not leave that free
 */
export function loopEdits(
  archive: Archive,
  n: number,
  [first, last]: readonly [first: number, last: number],
): FieldEdit[] | undefined {
  const rule = archive.recipe.entries.sound;
  const [start, end] = [rule?.loopStart, rule?.loopEnd].map((formula) =>
    formula === undefined ? undefined : entryFieldPlace(archive, n, formula),
  );
  if (start === undefined || end === undefined) return undefined;
  return [
    { place: start, value: first },
    { place: end, value: last },
  ];
}
