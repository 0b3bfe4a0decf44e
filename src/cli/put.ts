import { lstat, mkdir } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { createFile, fileScratch, openFile, type FileSource } from '../core/bytes/node';
import { bufferSource, collect, readChunks, type ByteSource } from '../core/bytes';
import { FaultError, LimitError, sayFault, visible } from '../core/faults';
import { fitEntry, ifReadable, type EntryToConvert, type FittedEntry } from '../core/forms';
import { sayNote } from '../core/notes';
import { planRebuild, uniquePaths, writePlan, type Archive, type Edits, type Layout } from '../core/recipe';
import { startOf } from '../core/recipe/node';
import { formRecipes, refuseOwnFolder, split, warn, withOpened, type ArchiveOptions } from './archive-options';
import { ALL_CONVERTERS, entriesToConvert } from './convert-entry';

interface PutOptions extends ArchiveOptions {
  readonly to: string;
  readonly change: readonly string[];
  readonly add: readonly string[];
  readonly remove: readonly string[];
  /** Undefined for the layout that the game loads best. */
  readonly how?: Layout;
  readonly replace?: boolean;
  /** Changed files are made to fit; without it they go in byte for byte. */
  readonly fit?: boolean;
}

export async function put(files: readonly string[], options: PutOptions): Promise<void> {
  await withOpened(files, options, async (archive, sources) => {
    warn(archive, sayFault);
    await mkdir(options.to, { recursive: true });
    await refuseOwnFolder(options.to, sources);
    const opened: FileSource[] = [];
    const scratch = fileScratch(options.to);
    try {
      const edits = await readEdits(archive, options, opened);
      const plan = await planRebuild(archive, edits, {
        ...(options.how === undefined ? {} : { layout: options.how }),
        scratch,
      });
      const replace = options.replace === true;
      if (!replace) for (const { name } of plan.volumes) await refuseTaken(join(options.to, name));
      await writePlan(plan, async (volume) => {
        const path = join(options.to, volume.name);
        await mkdir(dirname(path), { recursive: true });
        return createFile(path, { ...startOf(volume), replace });
      });
      const names = plan.volumes.map(({ name }) => join(options.to, name)).join(', ');
      process.stdout.write(
        `${names}: ${plan.entryCount} entries, ${plan.changed.length} new or changed, ${plan.size} bytes\n`,
      );
    } finally {
      await scratch.release();
      for (const file of opened) await file.close();
    }
  });
}

/** @throws FaultError `conflict` when a file has that name: it may be someone's work */
async function refuseTaken(path: string): Promise<void> {
  if ((await lstat(path).catch(() => undefined)) === undefined) return;
  throw new FaultError({
    code: 'conflict',
    what: 'something of that name is there already',
    file: path,
    hint: 'Choose another folder with --to, or write over it with --replace.',
  });
}

async function readEdits(archive: Archive, options: PutOptions, opened: FileSource[]): Promise<Edits> {
  const byPath = new Map<string, number>();
  const pathOf = uniquePaths(archive.entries);
  for (let i = 0; i < archive.entries.count; i++) byPath.set(pathOf(i), i);
  const entryOf = (path: string) => {
    const entry = byPath.get(path);
    if (entry !== undefined) return entry;
    throw new FaultError({
      code: 'no-such-entry',
      what: `there is no entry ${path}`,
      file: archive.source.name,
      hint: 'zero-latch list shows the paths.',
    });
  };
  const file = async (path: string) => {
    const source = await openFile(path);
    opened.push(source);
    return source;
  };
  const replace = new Map<number, ByteSource>();
  const recipes = options.fit === true ? await formRecipes([archive]) : [];
  const entryAt = entriesToConvert(archive, pathOf, recipes, MOST_FITTED_BYTES);
  for (const text of options.change) {
    const [path, from] = split(text, '--change');
    const n = entryOf(path);
    const source = await file(from);
    if (options.fit !== true) {
      replace.set(n, source);
      continue;
    }
    const made = await fitted(await ifReadable(entryAt(n)), source);
    for (const one of made?.files ?? [{ path, bytes: undefined }]) {
      // A picture may be kept in several entries: they must not be changed against each other.
      if (replace.has(entryOf(one.path))) throw changedTwice(one.path);
      replace.set(entryOf(one.path), one.bytes === undefined ? source : bufferSource(one.bytes, from));
    }
  }
  const add: { path: string; bytes: FileSource }[] = [];
  for (const text of options.add) {
    const [path, from] = split(text, '--add');
    add.push({ path, bytes: await file(from) });
  }
  // What is not in this archive may be in one it covers: a marker says that it is gone.
  const canMark = archive.recipe.entries.deleted !== undefined;
  const mark = canMark ? options.remove.filter((path) => !byPath.has(path)) : [];
  const remove = new Set(options.remove.filter((path) => !mark.includes(path)).map(entryOf));
  return { replace, add, remove, mark };
}

/** Larger files, and those for larger entries, are written unchanged: both are held in memory. */
const MOST_FITTED_BYTES = 64 << 20;

/**
 * Converts a file to match the entry it replaces, and reports how.
 *
 * @returns undefined where the file is written unchanged: its form is not known, or, with a note, it cannot be converted
 */
async function fitted(entry: EntryToConvert | undefined, source: FileSource): Promise<FittedEntry | undefined> {
  if (entry === undefined || source.size === 0) return undefined;
  try {
    if (source.size > MOST_FITTED_BYTES) throw tooLarge(source);
    const file = { bytes: await collect(readChunks(source)), fileName: source.path };
    const made = await fitEntry(entry, file, ALL_CONVERTERS);
    for (const note of made?.notes ?? []) process.stderr.write(`Note: ${visible(entry.path)}: ${sayNote(note)}.\n`);
    return made;
  } catch (error) {
    // It may be in the game's own format, which only the game reads.
    if (!(error instanceof FaultError) || !['wrong-kind', 'limit-reached'].includes(error.fault.code)) throw error;
    process.stderr.write(`Note: ${visible(entry.path)}: written unchanged. ${sayFault(error.fault)}\n`);
    return undefined;
  }
}

const tooLarge = ({ path, size }: FileSource): LimitError =>
  new LimitError({
    code: 'limit-reached',
    file: path,
    found: `${size.toLocaleString('en')} bytes`,
    limit: `bytes of a file that is converted, ${MOST_FITTED_BYTES.toLocaleString('en')}`,
  });

const changedTwice = (entry: string): FaultError =>
  new FaultError({
    code: 'conflict',
    entry,
    what: 'two files would change it',
    hint: 'It may hold a part of another picture that is changed too. Leave one of them out.',
  });
