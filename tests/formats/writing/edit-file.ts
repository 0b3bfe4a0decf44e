/** Small files, edited by path: what comes out, or the fault that says why nothing does. */
import { bufferSource, collect, memoryScratch } from '../../../src/core/bytes';
import { FaultError, sayFault, type Fault } from '../../../src/core/faults';
import {
  compileRecipe,
  isProven,
  openArchive,
  planRebuild,
  prove,
  readEntry,
  volumeBytes,
  type Archive,
  type Layout,
} from '../../../src/core/recipe';

export interface SmallEdits {
  readonly change?: Readonly<Record<string, string | Uint8Array>>;
  readonly add?: Readonly<Record<string, string | Uint8Array>>;
  readonly remove?: readonly string[];
  readonly mark?: readonly string[];
}

const bytesOf = (content: string | Uint8Array) =>
  typeof content === 'string' ? Buffer.from(content, 'latin1') : content;

/** Opens one file, or several volumes by their names. */
export async function openFiles(recipe: string, files: string | Uint8Array | Readonly<Record<string, Uint8Array>>) {
  const named = typeof files === 'string' || files instanceof Uint8Array ? { 'sample.bin': bytesOf(files) } : files;
  return openArchive(
    compileRecipe(recipe),
    Object.entries(named).map(([name, bytes]) => bufferSource(bytes, name)),
  );
}

/** The volumes after some edits, by name. @throws FaultError when they are refused */
export async function editArchive(
  archive: Archive,
  edits: SmallEdits,
  layout: Layout = 'keep',
): Promise<Readonly<Record<string, Buffer>>> {
  const entryOf = (path: string) => {
    for (let i = 0; i < archive.entries.count; i++) if (archive.entries.path(i) === path) return i;
    throw new Error(`there is no entry ${path}`);
  };
  const plan = await planRebuild(
    archive,
    {
      replace: new Map(
        Object.entries(edits.change ?? {}).map(([path, bytes]) => [entryOf(path), bufferSource(bytesOf(bytes))]),
      ),
      add: Object.entries(edits.add ?? {}).map(([path, bytes]) => ({ path, bytes: bufferSource(bytesOf(bytes)) })),
      remove: new Set((edits.remove ?? []).map(entryOf)),
      mark: edits.mark ?? [],
    },
    { layout, scratch: memoryScratch() },
  );
  const made: Record<string, Buffer> = {};
  for (const volume of plan.volumes) made[volume.name] = Buffer.from(await collect(volumeBytes(volume)));
  return made;
}

/** A single file after some edits. */
export async function edited(
  recipe: string,
  file: string | Uint8Array,
  edits: SmallEdits,
  layout: Layout = 'keep',
): Promise<Buffer> {
  return (await editArchive(await openFiles(recipe, file), edits, layout))['sample.bin']!;
}

/** The fault of edits that are refused. */
export async function refused(
  recipe: string,
  file: string | Uint8Array,
  edits: SmallEdits,
  layout: Layout = 'keep',
): Promise<Fault> {
  try {
    await edited(recipe, file, edits, layout);
  } catch (error) {
    if (error instanceof FaultError) return error.fault;
    throw error;
  }
  throw new Error('nothing was refused');
}

/** Paths with what a reader finds in them. */
export async function contentsOf(
  recipe: string,
  files: string | Uint8Array | Readonly<Record<string, Uint8Array>>,
): Promise<Record<string, string>> {
  const archive = await openFiles(recipe, files);
  const found: Record<string, string> = {};
  for (let i = 0; i < archive.entries.count; i++)
    found[archive.entries.path(i)] = Buffer.from(await collect(readEntry(archive, i))).toString('latin1');
  return found;
}

/** A recipe with the given parts, so that a test shows only what it is about. */
export const recipeOf = (parts: string): string =>
  `recipe: small\ntitle: Small\nrevision: 1\nnumbers: little\n${parts}`;

/** Whether a file is proven whole; what is not is told. */
export async function isProvenWhole(recipe: string, file: string | Uint8Array): Promise<boolean> {
  const proof = await prove(await openFiles(recipe, file), { scratch: memoryScratch() });
  expect(Object.values(proof).flatMap(({ first }) => (first === undefined ? [] : [sayFault(first)]))).toEqual([]);
  return isProven(proof);
}
