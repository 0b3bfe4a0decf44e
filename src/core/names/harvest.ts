/** Paths that are in the content of entries and programs: what one file says of the others. */

/** Between two pieces, so that a path on the border is found whole. */
const OVERLAP = 512;
/** Something like a path: names with folders, or one with an ending. */
const PATH = /[A-Za-z0-9_~@$%+][A-Za-z0-9_~@$%+.\-/\\ ()[\]]{2,250}/g;

/**
 * Texts that look like paths, each as it is and in the ways games write them: with `/` for `\`, without what leads
 * to the folder, and without the quotes or spaces around it. UTF-8 and UTF-16 are both looked at.
 */
export async function* harvestPaths(chunks: AsyncIterable<Uint8Array>): AsyncGenerator<string> {
  let before = '';
  for await (const chunk of chunks) {
    const latin = Buffer.from(chunk.buffer, chunk.byteOffset, chunk.byteLength).toString('latin1');
    yield* pathsIn(before + latin);
    // Every second byte zero: the same text in UTF-16.
    const wide = latin.replace(/([\x20-\x7e])\0/g, '$1');
    if (wide.length < latin.length * 0.9) yield* pathsIn(wide);
    before = latin.slice(-OVERLAP);
  }
}

export function* pathsIn(text: string): Generator<string> {
  for (const [raw] of text.matchAll(PATH)) {
    const trimmed = raw.trim();
    if (!/[/\\]/.test(trimmed) && !/\.[A-Za-z0-9]{1,8}$/.test(trimmed)) continue;
    const path = plain(trimmed);
    if (path.length >= 3) yield path;
    // A path may be in a sentence, or a list of them in one line.
    const words = trimmed.split(' ');
    if (words.length > 1) for (const word of words) if (/[/\\.]/.test(word)) yield plain(word);
  }
}

/** With `/`, without what leads to the folder, and without the dots and brackets of the sentence around it. */
function plain(text: string): string {
  return text
    .replaceAll('\\', '/')
    .replace(/\/{2,}/g, '/')
    .replace(/^(\.\/)+|^[/([]+/g, '')
    .replace(/[.)\]]+$/, '');
}
