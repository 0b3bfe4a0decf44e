/** Sounds without a header of their own: the row of the entry says what they are. */
import { FormatError } from '../../faults';
import { entryFieldPlace, entryValue, type Archive, type FieldEdit } from '../../recipe';
import { SOUND_CODECS, USUAL_BLOCK, type SoundFormat } from './sound';

/**
 * The format of an entry as its recipe tells it; undefined when the recipe tells nothing of sounds.
 *
 * @throws FormatError `wrong-kind` for a codec that is not known, or numbers that no sound has
 */
export function soundFormatOf(archive: Archive, n: number): SoundFormat | undefined {
  const rule = archive.recipe.entries.sound;
  if (rule === undefined) return undefined;
  const value = (formula: typeof rule.channels) =>
    formula === undefined ? undefined : entryValue(archive, n, formula);
  const name = archive.entries.path(n);
  const told = String(value(rule.codec));
  const codec = SOUND_CODECS.find((one) => one === told);
  const refuse = (field: string, expected: string, found: unknown) =>
    new FormatError({
      code: 'wrong-kind',
      entry: name,
      recipe: archive.recipe.id,
      line: rule.line,
      field,
      expected,
      found: String(found),
    });
  if (codec === undefined) throw refuse('codec', SOUND_CODECS.join(', '), told);
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
