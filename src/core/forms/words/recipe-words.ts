/** Tables of texts as recipes present them: each entry is a text, and its row states the key. */
import { collect, type Scratch } from '../../bytes';
import { FormatError } from '../../faults';
import {
  entryValue,
  fieldPlace,
  NO_EDITS,
  planRebuild,
  readEntry,
  smallReader,
  type Archive,
  type Plan,
  type TextCodec,
} from '../../recipe';

/** A text of a table. */
export interface TableText {
  readonly n: number;
  readonly text: string;
  /** As it is written. */
  readonly bytes: Uint8Array;
}

export interface WordTable {
  readonly locale: string;
  /** In the order of the table. */
  readonly texts: ReadonlyMap<string, TableText>;
  /** Bytes that a text may have. */
  readonly most: number | undefined;
  /** How its texts are written. */
  readonly codec: TextCodec;
}

/**
 * All texts of an archive; undefined when its recipe does not say that they are any.
 *
 * @throws FormatError when an entry cannot be read
 */
export async function wordTable(archive: Archive): Promise<WordTable | undefined> {
  const rule = archive.recipe.entries.words;
  if (rule === undefined) return undefined;
  const texts = new Map<string, TableText>();
  const { count } = archive.entries;
  const small = await smallReader(archive);
  for (let n = 0; n < count; n++) {
    if (archive.entries.isDeleted(n)) continue;
    const key = rule.key === undefined ? nameOf(archive.entries.path(n)) : String(entryValue(archive, n, rule.key));
    const bytes = small(n) ?? (await collect(readEntry(archive, n, { verify: false })));
    texts.set(key, { n, text: decoded(rule.text, bytes), bytes });
  }
  const value = (formula: typeof rule.most) =>
    formula === undefined || count === 0 ? undefined : entryValue(archive, 0, formula);
  const most = value(rule.most);
  return {
    locale: wordLocale(archive) ?? '',
    texts,
    most: most === undefined ? undefined : Number(most),
    codec: rule.text,
  };
}

/** The language of a table of texts; undefined when the archive is none, or empty. */
export function wordLocale(archive: Archive): string | undefined {
  const rule = archive.recipe.entries.words;
  return rule?.locale === undefined || archive.entries.count === 0
    ? undefined
    : String(entryValue(archive, 0, rule.locale));
}

const nameOf = (path: string) => path.slice(path.lastIndexOf('/') + 1);

/** One broken text does not take the table away: it is shown as far as it can be. */
function decoded(codec: TextCodec, bytes: Uint8Array): string {
  try {
    return codec.decode(bytes);
  } catch {
    return new TextDecoder().decode(bytes);
  }
}

/**
 * Plans a table as it is, in another language: its texts are left to be translated.
 *
 * @param name of the new file
 * @throws FormatError `cannot-add` when the language does not are in a field of its own; what {@link planRebuild} throws
 */
export function tableInLocale(archive: Archive, locale: string, name: string, scratch: Scratch): Promise<Plan> {
  const rule = archive.recipe.entries.words;
  const place = rule === undefined ? undefined : fieldPlace(archive, rule.locale);
  if (place === undefined)
    throw new FormatError({
      code: 'cannot-add',
      file: archive.source.name,
      recipe: archive.recipe.id,
      what: 'no new language is made of this table: its recipe names no field with the language of its texts',
    });
  return planRebuild(archive, { ...NO_EDITS, values: [{ place, value: locale }] }, { name, scratch });
}

/** The codes of the languages that an archive offers, by entry; undefined when its recipe does not say that it offers any. */
export function languageCodes(archive: Archive): string[] | undefined {
  const rule = archive.recipe.entries.languages;
  if (rule === undefined) return undefined;
  return Array.from({ length: archive.entries.count }, (_, n) => String(entryValue(archive, n, rule.code)));
}
