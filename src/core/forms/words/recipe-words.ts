/** Tables of texts as recipes present them: each entry is a text, and its row tells the key. */
import { collect } from '../../bytes';
import { entryValue, readEntry, type Archive } from '../../recipe';

/** A text of a table. */
export interface TableText {
  readonly n: number;
  readonly text: string;
}

export interface WordTable {
  readonly locale: string;
  /** In the order of the table. */
  readonly texts: ReadonlyMap<string, TableText>;
  /** Bytes of UTF-8 that a text may have. */
  readonly most: number | undefined;
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
  for (let n = 0; n < count; n++) {
    if (archive.entries.isDeleted(n)) continue;
    const path = archive.entries.path(n);
    const key =
      rule.key === undefined ? path.slice(path.lastIndexOf('/') + 1) : String(entryValue(archive, n, rule.key));
    const bytes = await collect(readEntry(archive, n, { verify: false }));
    texts.set(key, { n, text: new TextDecoder().decode(bytes) });
  }
  const value = (formula: typeof rule.most) =>
    formula === undefined || count === 0 ? undefined : entryValue(archive, 0, formula);
  const most = value(rule.most);
  return {
    locale: String(value(rule.locale) ?? ''),
    texts,
    most: most === undefined ? undefined : Number(most),
  };
}
