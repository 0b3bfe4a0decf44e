/** Parts of a text that the game fills in or acts on, which a translation has to keep. */

/**
 * `{name}` and `{0}`, `%s`, `%1$d` and `%.2f`, `$NAME$`, tags such as `<b>` and `</b>`, and escapes such as `\n`.
 */
const PLACEHOLDER =
  /\{[A-Za-z0-9_.:,]*\}|%(?:\d+\$)?[-+#0]*\d*(?:\.\d+)?[a-zA-Z%]|\$[A-Z][A-Z0-9_]*\$|<\/?[A-Za-z][^<>]*>|\\[nrt\\]/g;

/** Each with the number of times it occurs. */
export function placeholdersIn(text: string): Map<string, number> {
  const found = new Map<string, number>();
  for (const [one] of text.matchAll(PLACEHOLDER)) found.set(one, (found.get(one) ?? 0) + 1);
  return found;
}

/** The text with a space in place of each. */
export const withoutPlaceholders = (text: string): string => text.replace(PLACEHOLDER, ' ');

/** What a text has less of than its source, and what it has more of. */
export function comparePlaceholders(source: string, text: string): { missing: string[]; extra: string[] } {
  const [wanted, found] = [placeholdersIn(source), placeholdersIn(text)];
  const lacking = (of: ReadonlyMap<string, number>, than: ReadonlyMap<string, number>) =>
    [...of].flatMap(([one, count]) => (count > (than.get(one) ?? 0) ? [one] : []));
  return { missing: lacking(wanted, found), extra: lacking(found, wanted) };
}
