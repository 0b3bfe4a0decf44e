/** Name lists: a path a line, or CSV whose last column is the path. */

/** Paths of a name list; empty lines and lines that begin with `#` are passed over. */
export function* parseNameList(text: string): Generator<string> {
  for (const raw of text.split('\n')) {
    const line = raw.trim();
    if (line === '' || line.startsWith('#')) continue;
    const columns = line.split(/[,;\t]/);
    const path = columns
      .at(-1)!
      .trim()
      .replace(/^"(.*)"$/, '$1');
    if (path !== '') yield path;
  }
}
