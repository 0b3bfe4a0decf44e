/** What fields tell of sounds: those of the rows of entries, or those of one that is an entry. */
import type { Names } from '../formula/names';
import type { RecipeSoundRule, Region, SoundRule } from '../model';
import { checkForm, formulasOf, regionOfBytes, type Setting } from './setting';

type SoundText = NonNullable<Setting['parsed']['recipe']['entries']['sound']>;

/** The part `sound` of `entries`. */
export function compileEntrySound(setting: Setting, names: Names): SoundRule | undefined {
  const text = setting.parsed.recipe.entries.sound;
  return text === undefined ? undefined : soundRule(text, ['entries', 'sound'], setting, names);
}

/**
 * The part `sound` of a recipe that presents one.
 *
 * @throws FormatError `recipe-invalid` when it presents one and does not say how, or the other way round
 */
export function compileSound(regions: readonly Region[], setting: Setting): RecipeSoundRule | undefined {
  checkForm('sound', setting);
  const { parsed, names } = setting;
  const text = parsed.recipe.sound;
  if (text === undefined) return undefined;
  const from = regionOfBytes(text.from, parsed.lineOf(['sound', 'from']), regions);
  return { ...soundRule(text, ['sound'], setting, names), from };
}

function soundRule(text: SoundText, path: readonly string[], setting: Setting, names: Names): SoundRule {
  const formula = formulasOf(text, path, setting, names);
  return {
    line: setting.parsed.lineOf(path),
    codec: formula('codec')!,
    rate: formula('rate')!,
    channels: formula('channels'),
    block: formula('block'),
    loop: formula('loop'),
    loopStart: formula('loop-start'),
    loopEnd: formula('loop-end'),
    most: formula('most'),
    samples: formula('samples'),
  };
}
