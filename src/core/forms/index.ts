/** Entries as files of open formats, by the form they have. */
import type { ConvertedEntry, EntryToConvert, FileToFit, FittedEntry, FormConverter } from './converter';
import { fontConverter } from './font/convert';
import { meshConverter } from './mesh/convert';
import { pictureConverter } from './picture/convert';
import { recordsConverter } from './records/convert';
import { messagesConverter } from './words/convert';

export type { ConvertedEntry, EntryToConvert, FileToFit, FittedEntry, FormConverter } from './converter';
export { ifReadable } from './if-readable';
export { formRecipe } from './form-recipe';

/** Those that need no program beside this one. */
export const CONVERTERS: readonly FormConverter[] = [
  pictureConverter,
  meshConverter,
  fontConverter,
  recordsConverter,
  messagesConverter,
];

/**
 * @param wanted formats in the order in which they are preferred
 * @returns the entry in the first of them that suits its form, with that format; undefined when none does, or when its ending says
 *   that it is in that format already
 * @throws FaultError or FormatError when it is of a form that one of them is for, and cannot be read
 */
export async function convertEntry(
  entry: EntryToConvert,
  wanted: readonly string[],
  converters: readonly FormConverter[],
): Promise<(ConvertedEntry & { readonly as: string }) | undefined> {
  for (const { formats, convert } of converters) {
    const as = wanted.find((format) => formats.includes(format));
    if (as === undefined) continue;
    const isAlready = entry.path.toLowerCase().endsWith(`.${as}`);
    const made = isAlready ? undefined : await convert(entry, as);
    if (made !== undefined) return { ...made, as };
  }
  return undefined;
}

/**
 * @returns the file as the entry is kept; undefined when nothing is known of the entry, so that it goes in as it is
 * @throws FaultError or FormatError when the file cannot be made to fit
 */
export async function fitEntry(
  entry: EntryToConvert,
  file: FileToFit,
  converters: readonly FormConverter[],
): Promise<FittedEntry | undefined> {
  for (const converter of converters) {
    const made = await converter.fit(entry, file);
    if (made !== undefined) return made;
  }
  return undefined;
}
