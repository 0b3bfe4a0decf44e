/** A collection of recipes as a ZIP, made and read in the browser. */
import { COLLECTION_MANIFEST, collectionManifest, type CollectionManifest } from '../../core/game/recipe-collection';
import type { CollectionAnswer } from '../../server/shapes';

/** Characters of all recipes together, at most. */
const MOST_CHARACTERS = 16 << 20;

export async function writeCollection(title: string, { recipes }: CollectionAnswer): Promise<Blob> {
  const { BlobWriter, TextReader, ZipWriter } = await import('@zip.js/zip.js');
  const zip = new ZipWriter(new BlobWriter('application/zip'), { useWebWorkers: false });
  const manifest: CollectionManifest = {
    ...{ format: 'zero-latch recipes', version: 1, title },
    recipes: recipes.map(({ id, revision }) => ({ file: `${id}.yaml`, id, revision })),
  };
  await zip.add(COLLECTION_MANIFEST, new TextReader(`${JSON.stringify(manifest, null, 2)}\n`));
  for (const { id, text } of recipes) await zip.add(`${id}.yaml`, new TextReader(text));
  return zip.close();
}

/**
 * @returns the texts of the recipes that the manifest names, or of all `.yaml` where there is none
 * @throws Error in words when it is no such file
 */
export async function readCollection(file: Blob): Promise<string[]> {
  const { BlobReader, TextWriter, ZipReader } = await import('@zip.js/zip.js');
  const zip = new ZipReader(new BlobReader(file), { useWebWorkers: false });
  try {
    const entries = await zip.getEntries().catch(() => {
      throw new Error('This is not a whole ZIP file.');
    });
    const files = entries.flatMap((entry) => (entry.directory ? [] : [entry]));
    const length = files.reduce((sum, { uncompressedSize }) => sum + uncompressedSize, 0);
    if (length > MOST_CHARACTERS) throw new Error(`It holds more than ${MOST_CHARACTERS >> 20} MB: this is no collection of recipes.`);
    const textOf = async (name: string) => {
      const found = files.find(({ filename }) => filename === name);
      if (found === undefined) throw new Error(`The collection names ${name}, which is not in it.`);
      return found.getData(new TextWriter());
    };
    const names = files.some(({ filename }) => filename === COLLECTION_MANIFEST)
      ? filesNamedIn(await textOf(COLLECTION_MANIFEST))
      : files.flatMap(({ filename }) => (/\.ya?ml$/.test(filename) ? [filename] : []));
    if (names.length === 0) throw new Error('There are no recipes in this file.');
    return await Promise.all(names.map(textOf));
  } finally {
    await zip.close();
  }
}

/** @throws Error in words when it is no manifest */
function filesNamedIn(text: string): string[] {
  let content: unknown;
  try {
    content = JSON.parse(text);
  } catch (error) {
    throw new Error(`${COLLECTION_MANIFEST} is not JSON: ${(error as Error).message}.`, { cause: error });
  }
  const parsed = collectionManifest.safeParse(content);
  if (parsed.success) return parsed.data.recipes.map(({ file }) => file);
  const { path, message } = parsed.error.issues[0]!;
  throw new Error(`${COLLECTION_MANIFEST} is not a manifest of recipes: ${path.join('.') || 'the file'}: ${message}.`);
}
