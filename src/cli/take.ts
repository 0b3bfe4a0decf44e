import { existsSync, lstatSync } from 'node:fs';
import { mkdir, realpath } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { readChunks } from '../core/bytes';
import { bytesIfSame, createFile, makeBelow } from '../core/bytes/node';
import { FaultError, faultOf, sayFault, visible } from '../core/faults';
import { convertEntry } from '../core/forms';
import { SafePaths } from '../core/game';
import { sayNote } from '../core/notes';
import { readEntry, storedSource, type Archive, type Recipe } from '../core/recipe';
import { formRecipes, refuseOwnFolder, warn, type ArchiveOptions } from './archive-options';
import { ALL_CONVERTERS, entriesToConvert } from './convert-entry';
import { chooseEntries, inside, isFolder, leadsNowhere, withLayers, type Chosen, type Layer } from './layers';
import { wordFormat, wordsTaken, type WordsTaken } from './convert-words';
import { OUT_FORMATS } from './out-formats';

interface TakeOptions extends ArchiveOptions {
  readonly to: string;
  /** Plain bytes, as they are stored, or in formats such as `png,wav,glb`: each entry in the one for its form. */
  readonly as: string;
  readonly replace?: boolean;
  /** Archives that are laid over the first, each over those before it. */
  readonly over: readonly string[];
}

/** @param more further volumes of the archive, as long as they are files, then patterns */
export async function take(file: string, more: readonly string[], options: TakeOptions): Promise<void> {
  const first = more.findIndex((one) => !existsSync(one));
  const volumes = first < 0 ? more : more.slice(0, first);
  const patterns = first < 0 ? [] : more.slice(first);
  const formats = formatsOf(options.as);
  const archives = [[file, ...volumes], ...options.over.map((one) => [one])];
  await withLayers(archives, options, async (layers) => {
    for (const { archive } of layers) warn(archive, sayFault);
    const recipes = formats.length === 0 ? [] : await formRecipes(layers.map(({ archive }) => archive));
    await mkdir(options.to, { recursive: true });
    const sources = layers.flatMap((layer) => layer.sources);
    await refuseOwnFolder(options.to, sources);
    const own = new Set(await Promise.all(sources.map(({ path }) => realpath(path))));
    const chosen = chooseEntries(layers, patterns);
    const files = chosen.filter((entry) => !isFolder(entry));
    const wanted = files.filter((entry) => !leadsNowhere(entry));
    for (const { layer, n, path } of files.filter(leadsNowhere))
      process.stderr.write(
        `Note: ${visible(path)} is a link to ${visible(layer.archive.entries.link(n)!)}, which is no file of the archive; it is not taken out.\n`,
      );
    const [only, ...others] = layers;
    const asWords = wordFormat(formats);
    if (asWords !== undefined && others.length > 0) refuseTables(layers);
    const words =
      asWords &&
      (await wordsTaken(
        only!.archive,
        wanted.map(({ n }) => n),
        asWords,
      ));
    if (words !== undefined) return takeWords(words, own, options);
    const paths = new SafePaths(chosen.map(inside));
    for (const entry of chosen.filter(isFolder)) await makeBelow(options.to, dirname(paths.clean(inside(entry)).path));
    const convert = convertersOf(layers, formats, recipes);
    const counts = { taken: 0, failed: 0, converted: 0, same: 0, kept: 0 };
    const target = targetsBelow(options.to);
    for (const entry of wanted) {
      const { path: name, layer } = entry;
      try {
        const made = await convert(entry);
        if (made !== undefined) counts.converted++;
        const safe = paths.clean(made?.path ?? name);
        if (safe.renamed !== undefined)
          process.stderr.write(
            `Note: the entry ${visible(name)} is written as ${safe.path}, because ${safe.renamed}.\n`,
          );
        for (const note of made?.notes ?? []) process.stderr.write(`Note: ${visible(name)}: ${sayNote(note)}.\n`);
        const path = await target(safe.path);
        if (own.has(path)) throw overItself(path, name);
        const chunks = made === undefined ? chunksOf(layer.archive, entry.n, options) : () => inOne(made.bytes);
        const done = await takeOne(path, chunks, options);
        if (done === 'same') counts.same++;
        if (done === 'kept') {
          process.stderr.write(`${safe.path} is there already and holds other bytes; it stays as it is.\n`);
          counts.kept++;
        }
      } catch (error) {
        if (error instanceof FaultError && ['disk-full', 'read-only', 'file-changed'].includes(error.fault.code))
          throw error;
        process.stderr.write(`${sayFault(faultOf(error, layer.archive.source.name))}\n`);
        counts.failed++;
      }
    }
    sayTaken({ ...counts, taken: wanted.length - counts.failed - counts.kept }, wanted.length, options.to);
  });
}

function sayTaken(
  {
    taken,
    failed,
    converted,
    same,
    kept,
  }: Readonly<Record<'taken' | 'failed' | 'converted' | 'same' | 'kept', number>>,
  of: number,
  to: string,
): void {
  const before = same > 0 ? `, ${same} of them there already` : '';
  const asOpen = converted > 0 ? `, ${converted} of them converted` : '';
  process.stdout.write(`${taken} of ${of} entries taken out to ${to}${asOpen}${before}\n`);
  if (kept > 0) process.stdout.write(`${kept} files that were there stay as they are; --replace writes over them\n`);
  if (failed + kept > 0) process.exitCode = 1;
}

/** @throws FaultError `invalid-request` when one of them is a table of texts, which is written as one file */
function refuseTables(layers: readonly Layer[]): void {
  const table = layers.find(({ archive }) => archive.recipe.entries.words !== undefined);
  if (table === undefined) return;
  throw new FaultError({
    code: 'invalid-request',
    file: table.archive.source.name,
    what: 'a table of texts is written as one file for each archive',
    hint: 'Leave out --over, and take each table out by itself.',
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
function convertersOf(layers: readonly Layer[], formats: readonly string[], recipes: readonly Recipe[]) {
  const entryAt = new Map(
    layers.map((layer) => [layer, entriesToConvert(layer.archive, layer.pathOf, recipes)] as const),
  );
  return async ({ layer, n, path }: Chosen) => {
    if (formats.length === 0) return undefined;
    const made = await convertEntry(await entryAt.get(layer)!(n), formats, ALL_CONVERTERS);
    return made && { ...made, path: `${path.replace(/\.[^./]*$/, '')}.${made.as}` };
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
