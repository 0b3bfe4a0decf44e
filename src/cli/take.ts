import { existsSync, lstatSync } from 'node:fs';
import { mkdir, realpath } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import picomatch from 'picomatch';
import { readChunks } from '../core/bytes';
import { bytesIfSame, createFile, makeBelow } from '../core/bytes/node';
import { FaultError, faultOf, sayFault, visible } from '../core/faults';
import { convertEntry } from '../core/forms';
import { WORD_FILES } from '../core/forms/words';
import { SafePaths } from '../core/game';
import { readEntry, storedSource, uniquePaths, type Archive, type Recipe } from '../core/recipe';
import { formRecipes, refuseOwnFolder, warn, withOpened, type ArchiveOptions } from './archive-options';
import { ALL_CONVERTERS, entriesToConvert } from './convert-entry';
import { wordFormat, wordsTaken, type WordsTaken } from './convert-words';

/** Every format that entries, or tables of texts, are taken out in. */
export const OUT_FORMATS: readonly string[] = [...ALL_CONVERTERS.flatMap(({ formats }) => formats), ...WORD_FILES];

interface TakeOptions extends ArchiveOptions {
  readonly to: string;
  /** Plain bytes, as they are stored, or in formats such as `png,wav,glb`: each entry in the one for its form. */
  readonly as: string;
  readonly replace?: boolean;
}

/** @param more further volumes of the archive, as long as they are files, then patterns */
export async function take(file: string, more: readonly string[], options: TakeOptions): Promise<void> {
  const first = more.findIndex((one) => !existsSync(one));
  const volumes = first < 0 ? more : more.slice(0, first);
  const patterns = first < 0 ? [] : more.slice(first);
  const formats = formatsOf(options.as);
  const recipes = formats.length === 0 ? [] : await formRecipes();
  await withOpened([file, ...volumes], options, async (archive, sources) => {
    warn(archive, sayFault);
    await mkdir(options.to, { recursive: true });
    await refuseOwnFolder(options.to, sources);
    const pathOf = uniquePaths(archive.entries);
    const chosen = chooseEntries(archive, pathOf, patterns);
    const isFolder = (entry: number) => archive.entries.isDirectory(entry);
    const wanted = chosen.filter((entry) => !isFolder(entry));
    // A folder is told by something in it.
    const inside = (entry: number) => (isFolder(entry) ? `${pathOf(entry)}/entry` : pathOf(entry));
    const paths = new SafePaths(chosen.map(inside));
    const target = targetsBelow(options.to);
    const own = new Set(await Promise.all(sources.map(({ path }) => realpath(path))));
    const asWords = wordFormat(formats);
    const words = asWords === undefined ? undefined : await wordsTaken(archive, wanted, asWords);
    if (words !== undefined) return takeWords(words, own, options);
    const convert = converterOf(archive, pathOf, formats, recipes);
    let failed = 0;
    let converted = 0;
    let same = 0;
    let kept = 0;
    for (const entry of chosen.filter(isFolder)) await makeBelow(options.to, dirname(paths.clean(inside(entry)).path));
    for (const entry of wanted) {
      const name = pathOf(entry);
      try {
        const made = await convert(entry);
        if (made !== undefined) converted++;
        const safe = paths.clean(made?.path ?? name);
        if (safe.renamed !== undefined)
          process.stderr.write(
            `Note: the entry ${visible(name)} is written as ${safe.path}, because ${safe.renamed}.\n`,
          );
        for (const note of made?.notes ?? []) process.stderr.write(`Note: ${visible(name)}: ${note}.\n`);
        const path = await target(safe.path);
        if (own.has(path)) throw overItself(path, name);
        const chunks = made === undefined ? chunksOf(archive, entry, options) : () => inOne(made.bytes);
        const done = await takeOne(path, chunks, options);
        if (done === 'same') same++;
        if (done === 'kept') {
          process.stderr.write(`${safe.path} is there already and holds other bytes; it stays as it is.\n`);
          kept++;
        }
      } catch (error) {
        if (error instanceof FaultError && ['disk-full', 'read-only', 'file-changed'].includes(error.fault.code))
          throw error;
        process.stderr.write(`${sayFault(faultOf(error, file))}\n`);
        failed++;
      }
    }
    const taken = wanted.length - failed - kept;
    const before = same > 0 ? `, ${same} of them there already` : '';
    const asOpen = converted > 0 ? `, ${converted} of them converted` : '';
    process.stdout.write(`${taken} of ${wanted.length} entries taken out to ${options.to}${asOpen}${before}\n`);
    if (kept > 0) process.stdout.write(`${kept} files that were there stay as they are; --replace writes over them\n`);
    if (failed + kept > 0) process.exitCode = 1;
  });
}

/** A table of texts in one file. @param own paths of the archive's own files */
async function takeWords(words: WordsTaken, own: ReadonlySet<string>, options: TakeOptions): Promise<void> {
  const path = join(await realpath(options.to), new SafePaths([words.name]).clean(words.name).path);
  if (own.has(path)) throw overItself(path, words.name);
  const done = await takeOne(path, () => inOne(words.bytes), options);
  if (done === 'kept') {
    process.stderr.write(
      `${path} is there already and holds other texts; it stays as it is. --replace writes over it.\n`,
    );
    process.exitCode = 1;
    return;
  }
  const before = done === 'same' ? ', as it was there already' : '';
  process.stdout.write(`${words.texts.toLocaleString('en')} texts taken out to ${path}${before}\n`);
}

/** @throws FaultError `invalid-request` naming what is no format */
function formatsOf(as: string): string[] {
  if (as === 'open' || as === 'stored') return [];
  const formats = as.toLowerCase().split(',');
  const unknown = formats.find((format) => !OUT_FORMATS.includes(format));
  if (unknown === undefined) return formats;
  throw new FaultError({
    code: 'invalid-request',
    what: `--as ${unknown} is not known`,
    expected: `open, stored, or formats out of ${OUT_FORMATS.join(', ')}, with commas between them`,
  });
}

/** Converts entries to files of open formats; what no format is for is written as it is. */
function converterOf(
  archive: Archive,
  pathOf: (entry: number) => string,
  formats: readonly string[],
  recipes: readonly Recipe[],
) {
  const entryAt = entriesToConvert(archive, pathOf, recipes);
  return async (n: number) => {
    if (formats.length === 0) return undefined;
    const made = await convertEntry(await entryAt(n), formats, ALL_CONVERTERS);
    return made && { ...made, path: `${pathOf(n).replace(/\.[^./]*$/, '')}.${made.as}` };
  };
}

function overItself(path: string, entry: string): FaultError {
  return new FaultError({
    code: 'invalid-request',
    what: 'the entry would be written over the archive it comes from',
    file: path,
    entry,
    hint: 'Choose another folder with --to.',
  });
}

function chooseEntries(archive: Archive, pathOf: (entry: number) => string, patterns: readonly string[]): number[] {
  const { entries } = archive;
  const all = Array.from({ length: entries.count }, (_, i) => i).filter((entry) => !entries.isDeleted(entry));
  if (patterns.length === 0) return all;
  const exact = new Set(patterns);
  const matches = picomatch([...patterns], { dot: true });
  const wanted = all.filter((entry) => exact.has(pathOf(entry)) || matches(pathOf(entry)));
  if (wanted.length > 0) return wanted;
  throw new FaultError({
    code: 'no-such-entry',
    what: `no entry is called ${patterns.join(' or ')}`,
    file: archive.source.name,
    hint: 'zero-latch list shows the paths; ** stands for any folders.',
  });
}

/** Where each path goes; its folders are made, once each. */
function targetsBelow(to: string): (path: string) => Promise<string> {
  const made = new Map<string, string>();
  return async (path) => {
    const folder = dirname(path);
    const real = made.get(folder) ?? (await makeBelow(to, folder));
    made.set(folder, real);
    return join(real, basename(path));
  };
}

type Done = 'taken' | 'same' | 'kept';

type Chunks = () => AsyncIterable<Uint8Array>;

const chunksOf =
  (archive: Archive, entry: number, { as }: TakeOptions): Chunks =>
  () =>
    as === 'stored' ? readChunks(storedSource(archive, entry)) : readEntry(archive, entry);

async function* inOne(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}

async function takeOne(path: string, chunks: Chunks, { replace }: TakeOptions): Promise<Done> {
  const there = lstatSync(path, { throwIfNoEntry: false });
  if (there !== undefined && (await bytesIfSame(path, chunks())) !== undefined) return 'same';
  if (there !== undefined && replace !== true) return 'kept';
  const sink = await createFile(path, { durable: false, replace: replace === true });
  try {
    for await (const chunk of chunks()) await sink.write(chunk);
    await sink.close();
    return 'taken';
  } catch (error) {
    await sink.abandon();
    throw error;
  }
}
