/** The bytes of one entry: stored, and plain behind its wrap, its chain and its blocks. */
import { joinedSource, sliceSource, type ByteSource } from '../../bytes';
import { createHasher } from '../../codecs';
import { FaultError, FormatError, throwIfStopped, type Fault } from '../../faults';
import { scopeOf, type EntryFacts, type Scope } from '../formula/value';
import { showValue } from '../formula/show-value';
import type { OpenedArchive } from './opened-archive';
import { blockChain, blockCountOf, blocksOf, type BlockPlace } from './blocks';
import { StreamReader } from './stream-reader';
import { decodeChunks, decodeWhole, prepareChain, type Chain } from './through';
import { readWrap, type FoundWrap } from './wrap';
import { checkClaim, dataChecks, checkData } from './entry-checks';

/** What is wrong with an entry whose bytes cannot be found or unpacked; undefined when nothing is. */
export function entryFault(archive: OpenedArchive, entry: number): Fault | undefined {
  const { entries, recipe, volumes } = archive;
  if (entries.isDeleted(entry)) return undefined;
  const damage = entries.damage(entry);
  if (damage !== undefined) return { entry: entries.path(entry), ...damage };
  const container = containerOf(archive, entry);
  if (container === undefined) {
    return {
      code: 'volume-missing',
      what: 'the volume that holds an entry is not there',
      entry: entries.path(entry),
      expected:
        recipe.volumes
          .filter(({ numbered }) => numbered)
          .map(({ pattern }) => pattern)
          .join(', ') || 'one more file',
      found: volumes.map(({ name }) => name).join(', '),
      hint: 'Put all volumes of the archive into one folder.',
    };
  }
  const stored = entries.stored(entry);
  const end = entries.at(entry) + (Number.isNaN(stored) ? 0 : stored);
  // Blocks that lie anywhere are looked at when they are read.
  if (end > container.size && recipe.entries.blocks?.at === undefined) {
    return {
      code: 'outside-file',
      what: 'the bytes of an entry are not inside the file',
      file: container.name,
      entry: entries.path(entry),
      offset: entries.at(entry),
      expected: `an end at or before 0x${container.size.toString(16).toUpperCase()}`,
      found: `0x${end.toString(16).toUpperCase()}`,
      hint: 'The file may be cut off or its index damaged.',
    };
  }
  const scattered = recipe.entries.blocks?.at === undefined ? undefined : blockFault(archive, entry, container);
  if (scattered !== undefined) return scattered;
  if (recipe.entries.stepsOf(entries.method(entry) ?? 0) !== undefined) return undefined;
  return {
    code: 'codec-failed',
    what: 'the recipe does not know how an entry is packed',
    entry: entries.path(entry),
    line: recipe.entries.line,
    expected: `one of ${recipe.entries.methods.map(String).join(', ')}`,
    found: showValue(entries.method(entry)),
  };
}

/** The bytes an entry's offset counts in: a volume, or the unlocked region its row lies in. */
export function containerOf(archive: OpenedArchive, entry: number): ByteSource | undefined {
  return archive.dataSpace ?? archive.volumes[archive.entries.volume(entry)]?.source;
}

/** The stored bytes of an entry. @throws FormatError `outside-file`, `volume-missing` */
export function storedSource(archive: OpenedArchive, entry: number): ByteSource {
  const fault = entryFault(archive, entry);
  if (fault !== undefined) throw new FormatError({ file: archive.source.name, recipe: archive.recipe.id, ...fault });
  const { entries } = archive;
  const container = containerOf(archive, entry)!;
  const stored = entries.stored(entry);
  return sliceSource(container, entries.at(entry), Number.isNaN(stored) ? 0 : stored, container.name);
}

/** Files of an archive that are read whole, all together. */
const MOST_AT_ONCE = 64 << 20;

/**
 * Reads many small entries without waiting for each: where they lie as they are in files that are small themselves.
 *
 * @returns the bytes of an entry; undefined for one that is packed, or not in its file, which {@link readEntry} reads or reports
 */
export async function smallReader(archive: OpenedArchive): Promise<(entry: number) => Uint8Array | undefined> {
  const { entries, recipe, volumes, dataSpace } = archive;
  const sources = dataSpace === undefined ? volumes.map(({ source }) => source) : [dataSpace];
  const rule = recipe.entries;
  const total = sources.reduce((sum, { size }) => sum + size, 0);
  if (rule.wrap !== undefined || rule.blocks !== undefined || rule.link !== undefined || total > MOST_AT_ONCE)
    return () => undefined;
  const whole = new Map<ByteSource, Uint8Array>();
  for (const source of sources) whole.set(source, await source.read(0, source.size));
  return (entry) => {
    const bytes = whole.get(containerOf(archive, entry)!);
    const at = entries.at(entry);
    const size = entries.stored(entry);
    const plain = rule.stepsOf(entries.method(entry) ?? 0)?.length === 0;
    if (bytes === undefined || !plain || !(at + size <= bytes.length)) return undefined;
    return bytes.subarray(at, at + size);
  };
}

/** A scope in which the entry, its rows and its folder are known. */
export function entryScope(archive: OpenedArchive, entry: number, facts?: EntryFacts): Scope {
  const { entries } = archive;
  const scope = scopeOf(archive.facts);
  scope.rows = [
    entries.rows.row(entries.row(entry)),
    ...entries.beside.map((table, i) => table.row(entries.besideRow(i, entry))),
  ];
  scope.entry = facts ?? entries.facts(entry);
  scope.volume = Math.max(0, entries.volume(entry));
  const folder = entries.folder(entry);
  if (folder >= 0 && archive.folders !== undefined) scope.folder = archive.folders.facts(folder);
  return scope;
}

/** An entry's stored bytes taken apart. */
export interface OpenedEntry {
  readonly stored: ByteSource;
  readonly wrap: FoundWrap | undefined;
  /** What the chain starts from. */
  readonly packed: ByteSource;
  readonly chain: Chain;
  readonly blocks: readonly BlockPlace[] | undefined;
  readonly scope: Scope;
}

/** @throws FormatError when the recipe does not know its method, LimitError for absurd sizes */
export async function openEntry(archive: OpenedArchive, entry: number): Promise<OpenedEntry> {
  const { entries, recipe, limits } = archive;
  const rule = recipe.entries;
  const scope = entryScope(archive, entry);
  const scattered = rule.blocks?.at === undefined ? undefined : scatteredBlocks(archive, entry, scope);
  const stored = scattered?.source ?? storedSource(archive, entry);
  let packed = stored;
  let wrap: FoundWrap | undefined;
  if (rule.wrap !== undefined) {
    wrap = await readWrap(rule, stored, 0, stored.size, scope, limits);
    packed = sliceSource(stored, wrap.dataAt, wrap.dataLength, stored.name);
    scope.own = wrap.fields;
  }
  checkClaim(archive, entry);
  const steps = rule.stepsOf(entries.method(entry) ?? 0)!;
  const size = entries.size(entry);
  const plainSize = Number.isNaN(size) || rule.blocks !== undefined ? undefined : size;
  const chain = prepareChain(steps, {
    scope,
    plainSize,
    maxPlainBytes: limits.maxEntryBytes,
    maxStretchBytes: limits.maxStretchBytes,
  });
  const blocks =
    rule.blocks === undefined
      ? undefined
      : (scattered?.blocks ?? blocksOf(rule.blocks, size, scope, blockRows(archive, scope)));
  return { stored, wrap, packed, chain, blocks, scope };
}

/** Why blocks that lie anywhere cannot be found, or do not lie in their volume. */
function blockFault(archive: OpenedArchive, entry: number, container: ByteSource): Fault | undefined {
  const { line } = archive.recipe.entries.blocks!;
  const place = { file: container.name, entry: archive.entries.path(entry), line };
  try {
    const outside = blocksOfEntry(archive, entry).find((block) => block.place! + block.stored > container.size);
    if (outside === undefined) return undefined;
    return {
      ...place,
      code: 'outside-file',
      what: `block ${outside.index} of an entry is not inside the file`,
      offset: outside.place!,
      expected: `an end at or before 0x${container.size.toString(16).toUpperCase()}`,
      found: `0x${(outside.place! + outside.stored).toString(16).toUpperCase()}`,
    };
  } catch (error) {
    if (!(error instanceof FaultError) || error.fault.code === 'stopped') throw error;
    return { ...place, ...error.fault };
  }
}

/** The blocks of an entry; none where its tables do not tell them. */
export function knownBlocks(archive: OpenedArchive, entry: number): readonly BlockPlace[] {
  return entryFault(archive, entry) === undefined ? blocksOfEntry(archive, entry) : [];
}

/**
 * Blocks that do not lie one after the other, and their stored bytes put together.
 *
 * @throws FormatError for one that is not found, or does not lie in its volume
 */
function scatteredBlocks(
  archive: OpenedArchive,
  entry: number,
  scope: Scope,
): { readonly blocks: readonly BlockPlace[]; readonly source: ByteSource } {
  const fault = entryFault(archive, entry);
  if (fault !== undefined) throw new FormatError({ file: archive.source.name, recipe: archive.recipe.id, ...fault });
  const { entries, recipe } = archive;
  const container = containerOf(archive, entry)!;
  const rule = recipe.entries.blocks!;
  const blocks = blocksOf(rule, entries.size(entry), scope, blockRows(archive, scope));
  const parts = blocks.map(({ place, stored }) => sliceSource(container, place!, stored));
  return { blocks, source: joinedSource(parts, container.name) };
}

/** The blocks of an entry as its tables tell them; none when its own header would have to be read. */
export function blocksOfEntry(archive: OpenedArchive, entry: number): readonly BlockPlace[] {
  const rule = archive.recipe.entries.blocks;
  if (rule === undefined || rule.stored.uses.entry.has('own') || rule.size.uses.entry.has('own')) return [];
  const scope = entryScope(archive, entry);
  return blocksOf(rule, archive.entries.size(entry), scope, blockRows(archive, scope));
}

/** How many blocks an entry has; 0 where only its wrap states the size of a block. */
export function blockCountOfEntry(archive: OpenedArchive, entry: number): number {
  const rule = archive.recipe.entries.blocks;
  if (rule === undefined || rule.size.uses.entry.has('own') || archive.entries.isDeleted(entry)) return 0;
  return blockCountOf(rule, archive.entries.size(entry), entryScope(archive, entry)).count;
}

/**
 * The plain bytes of one block.
 *
 * @throws FormatError when it unpacks to another size than its table says
 */
export function plainBlock(
  archive: OpenedArchive,
  opened: OpenedEntry,
  block: BlockPlace,
  stored: Uint8Array,
  enter = blockRows(archive, opened.scope),
): { readonly plain: Uint8Array; readonly chain: Chain } {
  enter(block.number);
  const chain = blockChain(archive.recipe.entries.blocks!, block, opened.scope, archive.limits.maxEntryBytes);
  const plain = decodeWhole(stored, chain);
  if (plain.length === block.size) return { plain, chain };
  throw new FormatError({
    code: 'size-differs',
    what: `block ${block.index} has another size than the archive says`,
    expected: `${block.size.toLocaleString('en')} bytes`,
    found: plain.length.toLocaleString('en'),
  });
}

/** Moves the row of the table of blocks along, where there is one. */
export function blockRows(archive: OpenedArchive, scope: Scope): (number: number) => void {
  const { blocks } = archive.recipe.entries;
  const bound = archive.blockRows;
  if (blocks?.each === undefined || bound === undefined) return () => {};
  const { rows } = scope;
  return (number) => {
    if (!(number < bound.count))
      throw new FormatError({
        code: 'must-differs',
        line: blocks.line,
        what: 'an entry has more blocks than the table of blocks',
        expected: `at most ${bound.count} rows`,
        found: `row ${number}`,
      });
    scope.rows = [...rows, bound.table.row(bound.row(number))];
  };
}

export interface ReadEntryOptions {
  readonly signal?: AbortSignal | undefined;
  /** Compare the bytes with the checksums of the entry's row once they have all been read. Default true. */
  readonly verify?: boolean;
}

/** The plain bytes behind chain and blocks, in order. */
export async function* plainChunks(
  archive: OpenedArchive,
  opened: OpenedEntry,
  signal: AbortSignal | undefined,
): AsyncGenerator<Uint8Array> {
  const options = { maxStoredBytes: archive.limits.maxRegionBytes, signal };
  const rule = archive.recipe.entries.blocks;
  if (rule === undefined || opened.blocks === undefined) {
    yield* decodeChunks(opened.packed, opened.chain, options);
    return;
  }
  const reader = new StreamReader(decodeChunks(opened.packed, opened.chain, options));
  const enter = blockRows(archive, opened.scope);
  try {
    for (const block of opened.blocks) {
      throwIfStopped(signal);
      await reader.skipTo(block.at);
      const stored = await reader.take(block.stored);
      yield plainBlock(archive, opened, block, stored, enter).plain;
    }
  } finally {
    await reader.close();
  }
}

/**
 * The plain bytes of an entry, in order.
 *
 * @throws FormatError `codec-failed`, `size-differs` or, after the last byte, `checksum-differs`
 */
export async function* readEntry(
  archive: OpenedArchive,
  entry: number,
  options: ReadEntryOptions = {},
): AsyncGenerator<Uint8Array> {
  const { entries, recipe } = archive;
  const place = { file: archive.source.name, recipe: recipe.id, entry: entries.path(entry) };
  try {
    if (entries.isDeleted(entry))
      throw new FormatError({ code: 'no-such-entry', what: 'this is a deletion marker and has no bytes' });
    const opened = await openEntry(archive, entry);
    const checks = options.verify === false ? [] : dataChecks(opened);
    const hashers = new Map(
      checks
        .flatMap(({ field }) => field.is!.uses.content)
        .map(({ name, hasher }) => [name, createHasher(hasher(opened.scope))]),
    );
    let total = 0;
    for await (const chunk of plainChunks(archive, opened, options.signal)) {
      throwIfStopped(options.signal);
      for (const hasher of hashers.values()) hasher.update(chunk);
      total += chunk.length;
      yield chunk;
    }
    const size = entries.size(entry);
    if (!Number.isNaN(size) && total !== size) {
      throw new FormatError({
        code: 'size-differs',
        expected: `${size.toLocaleString('en')} bytes`,
        found: total.toLocaleString('en'),
      });
    }
    checkData(opened, checks, hashers);
  } catch (error) {
    throw error instanceof FaultError ? error.with(place) : error;
  }
}
