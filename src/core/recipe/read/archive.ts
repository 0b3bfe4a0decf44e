/** Opening an archive with a recipe: regions in the order they can be read, then folders and entries. */
import { bufferSource, collect, readChunks, type ByteSource, type Scratch } from '../../bytes';
import { prepareCodecs } from '../../codecs';
import { FaultError, FormatError, hexBytes, throwIfStopped, type Fault } from '../../faults';
import { scopeOf, type FileFacts } from '../formula/value';
import { DEFAULT_LIMITS, type Limits } from '../limits';
import type { Match, Recipe, Region } from '../model';
import { LISTING, listingBytes } from '../language/folder-text';
import { prepareSandbox } from '../sandbox/own-step';
import { readingBudget } from './budget';
import { entryFault, knownBlocks } from './entry-bytes';
import { Tables } from './table';
import type { EntrySetting } from './entry-setting';
import type { EntryTable } from './entry-table';
import { readEntryTable } from './read-entry-table';
import { readFolders, type FolderTable } from './folder-table';
import { LateHashes, type SpanRequest } from './late-hashes';
import { pathHashes, type PathHashes } from './path-hashes';
import { forVolumes, isTemplate, liesIn, type VolumeFacts } from './per-volume';
import { lengthToEnd, readRegion, regionValue, type FoundRegion, type RegionSetting } from './read-region';
import { boundRows, rowsByNumber, type BoundRows } from './rows';
import { readSolid } from './solid';
import { decodeChunks, prepareChain } from './through';
import { baseName, assignVolumes, type OpenVolume } from './volumes';
import { readWrap, type FoundWrap } from './wrap';

export type Keys = ReadonlyMap<string, Uint8Array>;

export interface OpenOptions {
  readonly keys?: Keys;
  readonly limits?: Partial<Limits>;
  readonly signal?: AbortSignal;
  /** Paths that may give hashed entries their names. */
  readonly names?: Iterable<string>;
  /** Room for a file that is packed as a whole. Without it such a file is unpacked into memory. */
  readonly scratch?: Scratch;
}

/** An archive whose tables have been read. It holds these, never its entries' bytes. */
export interface OpenedArchive {
  readonly recipe: Recipe;
  /** The main volume, unpacked when the whole file is packed. */
  readonly source: ByteSource;
  /** The main file as it was given. */
  readonly outer: ByteSource;
  readonly volumes: readonly OpenVolume[];
  readonly keys: Keys;
  readonly limits: Limits;
  readonly regions: ReadonlyMap<number, FoundRegion>;
  readonly entries: EntryTable;
  readonly folders: FolderTable | undefined;
  readonly blockRows: BoundRows | undefined;
  readonly hashes: PathHashes | undefined;
  /** Where entries lie in an unlocked region instead of a volume. */
  readonly dataSpace: ByteSource | undefined;
  readonly facts: FileFacts;
  readonly late: LateHashes;
}

/** Loads the engines of codecs and own steps; done once for each process. */
export async function prepareEngines(recipe: Recipe): Promise<void> {
  await prepareCodecs();
  // The JavaScript engine is large, and few recipes need it.
  if (recipe.hasOwnSteps) await prepareSandbox();
}

/**
 * Opens an archive without looking at its formulas.
 *
 * @param files the main volume first; a single source is an archive of one volume
 * @throws FormatError for what the file has wrong, with region, field, offset, expected and found
 * @throws FaultError `key-missing` or `key-wrong`, naming the slot
 */
export async function openTables(
  recipe: Recipe,
  files: ByteSource | readonly ByteSource[],
  options: OpenOptions = {},
): Promise<OpenedArchive> {
  await prepareEngines(recipe);
  const given = 'read' in files ? [files] : files;
  const outer = given[0]!;
  try {
    return await new Opening(recipe, given, options).open();
  } catch (error) {
    throw error instanceof FaultError ? error.with({ file: outer.name, recipe: recipe.id }) : error;
  }
}

/** The first region that cannot be read without a key, with what is known of the file up to there. */
export interface LockedRegion {
  readonly region: Region;
  readonly source: ByteSource;
  readonly facts: FileFacts;
}

/**
 * Opens as far as it goes without the key of a slot. The facts ask `keys` for it each time: put a key in, and formulas
 * are worked out with it.
 *
 * @returns undefined when no region needs a key that is not there
 */
export async function firstLocked(
  recipe: Recipe,
  files: readonly ByteSource[],
  keys: Map<string, Uint8Array>,
): Promise<LockedRegion | undefined> {
  await prepareEngines(recipe);
  const opening = new Opening(recipe, files, { keys });
  try {
    await opening.open();
    return undefined;
  } catch (error) {
    if (!(error instanceof FaultError) || error.fault.code !== 'key-missing') throw error;
    return opening.reading;
  }
}

/** The volumes of a folder, with the listing that says what its files are. */
function withListing(recipe: Recipe, volumes: readonly OpenVolume[]): readonly OpenVolume[] {
  const set = recipe.presents === 'folder' ? recipe.volumes.find(({ name }) => name === LISTING) : undefined;
  if (set === undefined) return volumes;
  const files = volumes
    .filter((volume) => volume.set.anyFile)
    .map(({ name, source: { size } }) => ({ path: name, size }));
  return [...volumes, { set, number: 0, name: LISTING, source: bufferSource(listingBytes(files), LISTING) }];
}

function factsOf({ set, number }: OpenVolume): VolumeFacts {
  return { set: set.name, number };
}

class Opening {
  private readonly limits: Limits;
  private readonly keys: Keys;
  private readonly found = new Map<number, FoundRegion>();
  private ownFacts: FileFacts | undefined;
  private readonly late = new LateHashes();
  private entries: EntryTable | undefined;
  private folders: FolderTable | undefined;
  private blocks: BoundRows | undefined;
  private volumes: readonly OpenVolume[] = [];
  private solidSpace: ByteSource | undefined;
  private opened: OpenedArchive | undefined;
  private chains: ReadonlyMap<number, number> | undefined;
  private uses: ReadonlyMap<number, number> | undefined;
  /** The region being read. */
  reading: LockedRegion | undefined;

  constructor(
    private recipe: Recipe,
    private readonly files: readonly ByteSource[],
    private readonly options: OpenOptions,
  ) {
    this.limits = { ...DEFAULT_LIMITS, ...options.limits };
    this.keys = options.keys ?? new Map<string, Uint8Array>();
  }

  async open(): Promise<OpenedArchive> {
    const { limits, keys, options } = this;
    const outer = this.files[0]!;
    await checkMatch(this.recipe, outer);
    const facts = this.facts();
    const source = await this.unwrapped(outer, facts);
    this.volumes = withListing(this.recipe, assignVolumes(this.recipe, [source, ...this.files.slice(1)]));
    this.recipe = forVolumes(this.recipe, this.volumes.map(factsOf));
    const { recipe } = this;
    const total = this.volumes.reduce((sum, one) => sum + one.source.size, 0);
    const budget = readingBudget(limits, total);
    const { each, beside } = recipe.entries;
    const tolerant = new Set([each, ...beside].map(({ shape }) => shape));
    const tolerantRegions = new Set([each, ...beside].map(({ region }) => region));
    for (const index of recipe.readingOrder) {
      throwIfStopped(options.signal);
      const region = recipe.regions[index]!;
      if (isTemplate(region)) continue;
      const volume = this.volumes.findIndex((one) => liesIn(region, factsOf(one)));
      if (volume < 0) continue;
      const { source: own } = this.volumes[volume]!;
      this.reading = { region, source: own, facts };
      try {
        const base = { source: own, volume, facts, limits, budget, signal: options.signal };
        const setting = tolerantRegions.has(index) ? { ...base, tolerant } : base;
        const read =
          region === recipe.solid ? await this.readSolid(region, setting) : await readRegion(region, setting);
        if (read !== undefined) this.found.set(index, read);
      } catch (error) {
        throw this.explained(error, region);
      }
    }
    const rule = recipe.entries;
    const bound = boundRows(recipe, this.found, rule.each, rule.folders?.each.shape);
    if (bound === undefined)
      throw new FormatError({
        code: 'must-differs',
        line: rule.line,
        what: `the rows of the entries are not there: region ${recipe.regions[rule.each.region]!.name} is left out`,
      });
    if (rule.folders !== undefined) this.folders = readFolders(recipe, rule.folders, this.found, facts);
    if (rule.blocks?.each !== undefined) this.blocks = boundRows(recipe, this.found, rule.blocks.each);
    const hashes = rule.hashing === undefined ? undefined : pathHashes(rule.hashing, options.names ?? [], facts);
    this.entries = await readEntryTable(this.entrySetting(bound, hashes, facts));
    this.opened = {
      recipe,
      source,
      outer,
      volumes: this.volumes,
      keys,
      limits,
      regions: this.found,
      entries: this.entries,
      folders: this.folders,
      blockRows: this.blocks,
      hashes,
      dataSpace: this.dataSpace(),
      facts,
      late: this.late,
    };
    return this.opened;
  }

  private entrySetting(bound: BoundRows, hashes: PathHashes | undefined, facts: FileFacts): EntrySetting {
    const { recipe, found } = this;
    const rule = recipe.entries;
    return {
      recipe,
      facts,
      volumes: this.volumes,
      bound,
      beside: rule.beside.map((binding) => {
        const rows = boundRows(recipe, found, binding);
        if (rows !== undefined && binding.by === undefined) return rows;
        if (rows !== undefined && binding.by !== undefined)
          return rowsByNumber(rows, binding.by, recipe.regions[binding.region]!.slots, facts, bound.count);
        throw new FormatError({
          code: 'must-differs',
          line: rule.line,
          what: `the rows of ${binding.name} are not there`,
        });
      }),
      folders: this.folders,
      hashes,
      spaceSize: this.solidSpace?.size,
      regionStarts: (volume) => [...found.values()].filter((one) => one.volume === volume).map((one) => one.at),
      wraps: usesOwn(recipe) ? (table) => this.readWraps(table) : undefined,
    };
  }

  /** Reads the header of every entry, where sizes are stored there. */
  private async readWraps(
    table: Parameters<NonNullable<EntrySetting['wraps']>>[0],
  ): ReturnType<NonNullable<EntrySetting['wraps']>> {
    const wraps: (FoundWrap | undefined)[] = [];
    const faults = new Map<number, FaultError>();
    const tables = new Tables();
    for (let i = 0; i < table.count; i++) {
      throwIfStopped(this.options.signal);
      const source = this.volumes[table.volume(i)]?.source;
      if (source === undefined) continue;
      try {
        const scope = table.scope(i);
        wraps[i] = await readWrap(this.recipe.entries, source, table.at(i), table.room(i), scope, this.limits, tables);
      } catch (error) {
        if (!(error instanceof FaultError) || error.fault.code === 'stopped') throw error;
        faults.set(i, error);
      }
    }
    return {
      fault: (i) => faults.get(i),
      fields: (i) => wraps[i]?.fields,
      stored: (i) => wraps[i]?.length ?? NaN,
      restAt: (i) => (wraps[i]?.takesRest === true ? wraps[i].dataAt : undefined),
    };
  }

  private async readSolid(region: Region, setting: RegionSetting): Promise<FoundRegion | undefined> {
    const formulas = this.recipe.shapes.flatMap((shape) => shape.fields.map(({ is }) => is));
    const hashed = formulas.some((formula) => formula?.uses.regionBytes.has(region.index) === true);
    const read = await readSolid(region, { ...setting, scratch: this.options.scratch, hashed });
    this.solidSpace = read?.space;
    return read?.found;
  }

  /** The unlocked bytes entries lie in: of their rows, or of the region that holds them packed together. */
  private dataSpace(): ByteSource | undefined {
    if (this.solidSpace !== undefined) return this.solidSpace;
    const { data, each } = this.recipe.entries;
    const region = this.found.get(each.region);
    if (data === undefined || region === undefined || !region.unlocked) return undefined;
    return bufferSource(region.plain!, `${this.files[0]!.name} (${region.region.name})`);
  }

  /** Unpacks a file that is packed as a whole. */
  private async unwrapped(outer: ByteSource, facts: FileFacts): Promise<ByteSource> {
    const { recipe, limits, options } = this;
    if (recipe.wrapped.length === 0) return outer;
    const most = options.scratch === undefined ? limits.maxRegionBytes : limits.maxEntryBytes;
    const chain = prepareChain(recipe.wrapped, { scope: scopeOf(facts), maxPlainBytes: most, choose: true });
    const chunks = decodeChunks(outer, chain, { maxStoredBytes: limits.maxRegionBytes, signal: options.signal });
    if (options.scratch !== undefined) return options.scratch.keep(chunks, outer.name);
    return bufferSource(await collect(chunks), outer.name);
  }

  /** Made once: formulas of rows ask for them a million times. */
  private facts(): FileFacts {
    return (this.ownFacts ??= this.makeFacts());
  }

  private makeFacts(): FileFacts {
    const { found, keys } = this;
    const get = (index: number): FoundRegion => {
      const region = found.get(index);
      if (region !== undefined) return region;
      throw new FormatError({
        code: 'recipe-circular',
        line: this.recipe.regions[index]!.line,
        what: `region ${this.recipe.regions[index]!.name} is needed before it can be read, or is left out`,
      });
    };
    const memo: { endianness?: 'little' | 'big' } = {};
    const facts: FileFacts = {
      packedFields: new Map(),
      region: (index) => regionValue(found.get(index)),
      start: (index) =>
        this.recipe.dataRegions.includes(this.recipe.regions[index]!) ? this.dataStart(index) : get(index).at,
      length: (index) => this.dataLength(index) ?? get(index).length,
      plainLength: (index) => {
        const { plain, explained } = get(index);
        return plain?.length ?? explained;
      },
      bytes: (index, which) => {
        const region = get(index);
        const bytes = which === 'plain' ? region.plain : region.stored;
        if (bytes !== undefined) return bytes;
        throw new FormatError({
          code: 'recipe-invalid',
          what: `region ${region.region.name} is too large to be hashed at once`,
          hint: 'Use span(start(region), start(region) + length(region)).',
        });
      },
      entryCount: () => this.entries?.count ?? 0,
      entryFacts: (index) => this.entries?.facts(index),
      blockCount: () => this.blocks?.count ?? 0,
      blockAfter: (at) => (this.chains ??= chainsOf(this.opened)).get(at),
      blockUses: (number) => (this.uses ??= blockUsesOf(this.opened)).get(number) ?? 0,
      folderCount: () => this.folders?.count ?? 0,
      fileName: () => baseName(this.files[0]!.name),
      volumeSize: (volume) => this.volumes[volume]?.source.size ?? this.files[0]!.size,
      volumeFacts: (volume) => ({
        number: this.volumes[volume]?.number ?? 0,
        count: this.entriesIn(volume),
      }),
      volumeIndex: (set, number) =>
        this.volumes.findIndex((one) => one.set.name === set && (number === undefined || one.number === number)),
      volumeCount: () => this.volumes.filter(({ set }) => set.numbered).length,
      key: (slot) => {
        const key = keys.get(slot);
        if (key !== undefined) return key;
        throw new FaultError({
          code: 'key-missing',
          what: `the slot "${slot}" needs a key`,
          expected: `a key of kind ${this.recipe.needs.get(slot) ?? 'unknown'}`,
          hint: 'Paste it on Open, or look for it in the game’s program.',
        });
      },
      endianness: (scope) => {
        const endianness = this.recipe.endianness;
        if (endianness === undefined) return 'little';
        if (memo.endianness !== undefined) return memo.endianness;
        if ([...endianness.uses.regions].every((index) => found.has(index)))
          return (memo.endianness = endianness.evaluate(scopeOf(facts)) as 'little' | 'big');
        // The region with that field is being read: what is before the field that asks is known.
        const root = scope.outer[0] ?? scope.fields;
        return endianness.evaluate(scopeOf({ ...facts, region: () => root })) as 'little' | 'big';
      },
      spanHash: (hasher, place, from, to, blank) => this.late.get({ hasher, ...place, from, to, blank }),
    };
    return facts;
  }

  /** Bytes from the start of a region of entries to the end of the last; undefined for other regions. */
  private dataLength(index: number): number | undefined {
    const { entries, recipe } = this;
    const region = recipe.regions[index]!;
    if (entries === undefined || !recipe.dataRegions.includes(region)) return undefined;
    const known = this.dataLengths.get(index);
    if (known !== undefined) return known;
    const start = this.dataStart(index);
    let end = start;
    const volume = this.volumes.findIndex((one) => liesIn(region, factsOf(one)));
    const whole = lengthToEnd(region, this.facts(), volume);
    if (whole !== undefined) {
      this.dataLengths.set(index, whole);
      return whole;
    }
    for (let i = 0; i < entries.count; i++) {
      if (entries.isDeleted(i) || this.volumes[entries.volume(i)]?.set.name !== region.volume) continue;
      for (const last of this.endsOf(i)) if (last > end) end = last;
    }
    this.dataLengths.set(index, end - start);
    return end - start;
  }
  private readonly dataLengths = new Map<number, number>();

  /** Where the bytes of an entry end: one place, or one for each block that lies anywhere. */
  private endsOf(entry: number): number[] {
    const { entries, opened } = this;
    if (opened === undefined || this.recipe.entries.blocks?.at === undefined)
      return [entries!.at(entry) + entries!.stored(entry)];
    return knownBlocks(opened, entry).map(({ place, stored }) => place! + stored);
  }

  private readonly counts = new Map<number, number>();
  private entriesIn(volume: number): number {
    const { entries } = this;
    if (entries === undefined) return 0;
    if (this.counts.size === 0)
      for (let i = 0; i < entries.count; i++)
        if (!entries.isDeleted(i)) this.counts.set(entries.volume(i), (this.counts.get(entries.volume(i)) ?? 0) + 1);
    return this.counts.get(volume) ?? 0;
  }

  /** Of regions whose place is stored: each row may ask for it. */
  private readonly starts = new Map<number, number>();

  /** Where the entries begin: behind the regions the recipe puts before them. */
  private dataStart(index: number): number {
    const data = this.recipe.regions[index]!;
    if (data.at !== undefined) {
      let start = this.starts.get(index);
      if (start === undefined) this.starts.set(index, (start = Number(data.at.evaluate(scopeOf(this.facts())))));
      return start;
    }
    let end = 0;
    for (const region of this.recipe.regions.slice(0, index)) {
      const found = this.found.get(region.index);
      if (found !== undefined && region.volume === data.volume) end = Math.max(end, found.at + found.length);
    }
    return Math.ceil(end / data.align) * data.align;
  }

  /** Adds the region to a fault; where a checksum covers it and disagrees too, says so. */
  private explained(error: unknown, region: Region): unknown {
    if (!(error instanceof FaultError)) return error;
    const covering = [...this.found.values()].flatMap(({ region: other, tables }) =>
      [...tables.all()].flatMap((table) =>
        table.shape.fields
          .filter((field) => field.is?.uses.regionBytes.has(region.index))
          .map((field) => `${other.name}.${field.name}`),
      ),
    );
    const hint =
      covering.length > 0 && error.fault.hint === undefined
        ? {
            hint: `The file keeps a checksum of it in ${covering.join(', ')}: a damaged copy is likely. Get the file again.`,
          }
        : {};
    return error.with({ region: region.name, line: region.line, ...hint });
  }
}

/** True when sizes or places of entries are stored in the header around their bytes. */
function usesOwn({ entries: rule }: Recipe): boolean {
  if (rule.wrap === undefined) return false;
  const formulas = [rule.stored, rule.size, rule.time, rule.deleted, rule.path, rule.hash, rule.id];
  return rule.stored === undefined || formulas.some((formula) => formula?.uses.entry.has('own') === true);
}

/** Bytes of the file a span covers, for hashes over it. */
export function spanBytes(archive: OpenedArchive, { space, volume, from, to }: SpanRequest): AsyncIterable<Uint8Array> {
  const region = space === undefined ? undefined : archive.regions.get(space);
  const plain = region?.unlocked === true ? region.plain : undefined;
  const file = archive.volumes[volume]?.source ?? archive.source;
  const source = plain === undefined ? file : bufferSource(plain, file.name);
  return readChunks(source, from, Math.max(0, to - from));
}

/** True when the bytes at both ends are those of this recipe's format. */
export async function matches(recipe: Recipe, source: ByteSource): Promise<boolean> {
  return (await matchOf(recipe, source)) !== undefined;
}

/**
 * How the bytes at both ends are those of this recipe's format: `placed` where they are at a stated place, `somewhere` where
 * they were searched for, and may as well be those of a file in the file.
 */
export async function matchOf(
  recipe: Pick<Recipe, 'match'>,
  source: ByteSource,
): Promise<'placed' | 'somewhere' | undefined> {
  let found: 'somewhere' | undefined;
  for (const all of recipe.match) {
    let holds = true;
    for (const one of all) if (!(await matchHolds(one, source))) holds = false;
    if (!holds) continue;
    if (all.every(({ within }) => within === 1)) return 'placed';
    found = 'somewhere';
  }
  return found;
}

async function matchHolds({ at, fromEnd, within, bytes, mask }: Match, source: ByteSource): Promise<boolean> {
  const wanted = fromEnd ? source.size - at : at;
  const offset = Math.max(0, wanted);
  const places = Math.min(within - (offset - wanted), source.size - offset - bytes.length + 1);
  if (places < 1) return false;
  const found = await source.read(offset, places - 1 + bytes.length);
  if (mask === undefined)
    return Buffer.from(found.buffer, found.byteOffset, found.byteLength).includes(Buffer.from(bytes));
  for (let i = 0; i < places; i++) if (bytes.every((byte, k) => ((found[i + k]! ^ byte) & mask[k]!) === 0)) return true;
  return false;
}

async function checkMatch(recipe: Recipe, source: ByteSource): Promise<void> {
  if (recipe.match.length === 0 || (await matches(recipe, source))) return;
  const first = recipe.match[0]![0]!;
  const at = first.fromEnd ? Math.max(0, source.size - first.at) : first.at;
  const length = Math.min(first.bytes.length, Math.max(0, source.size - at));
  throw new FormatError({
    code: 'must-differs',
    what: `this is not a ${recipe.title.toLowerCase()}`,
    offset: at,
    expected: printable(first.bytes),
    found: length === 0 ? 'the end of the file' : printable(await source.read(at, length)),
    hint: 'Choose another recipe, or let the scan find one.',
  });
}

function printable(bytes: Uint8Array): string {
  const text = Buffer.from(bytes).toString('latin1');
  return /^[\x20-\x7e]+$/.test(text) ? JSON.stringify(text) : hexBytes(bytes);
}

/** At most this many complaints of one kind are kept; the rest are counted. */
const MAX_COMPLAINTS = 20;

/** Rows that point nowhere, or to bytes no one can unpack. */
export function pointerComplaints(archive: OpenedArchive): Fault[] {
  const { entries, recipe, source } = archive;
  const complaints: Fault[] = [];
  let more = 0;
  for (let i = 0; i < entries.count; i++) {
    // The rows that are damaged have been reported with their formulas.
    if (isPlainlyFine(archive, i) || entries.damage(i) !== undefined) continue;
    const fault = entryFault(archive, i);
    if (fault === undefined) continue;
    if (complaints.length >= MAX_COMPLAINTS) more++;
    else complaints.push({ file: source.name, recipe: recipe.id, ...fault });
  }
  if (more > 0)
    complaints.push({
      code: 'outside-file',
      file: source.name,
      recipe: recipe.id,
      what: `${more.toLocaleString('en')} more entries cannot be read for the same reasons`,
    });
  return complaints;
}

/** For each block of all entries where it lies, and where the one behind it does; the last one leads to itself. */
function chainsOf(archive: OpenedArchive | undefined): ReadonlyMap<number, number> {
  const chains = new Map<number, number>();
  for (let entry = 0; entry < (archive?.entries.count ?? 0); entry++) {
    if (archive!.entries.isDeleted(entry)) continue;
    const places = knownBlocks(archive!, entry).map(({ at, place }) => place ?? archive!.entries.at(entry) + at);
    for (const [i, place] of places.entries()) chains.set(place, places[i + 1] ?? place);
  }
  return chains;
}

/** For each number in the table of blocks, how many blocks of entries it is. */
function blockUsesOf(archive: OpenedArchive | undefined): ReadonlyMap<number, number> {
  const uses = new Map<number, number>();
  for (let entry = 0; entry < (archive?.entries.count ?? 0); entry++) {
    if (archive!.entries.isDeleted(entry)) continue;
    for (const { number } of knownBlocks(archive!, entry)) uses.set(number, (uses.get(number) ?? 0) + 1);
  }
  return uses;
}

/** The common case without making an object: a million entries are looked at. */
function isPlainlyFine({ entries, volumes, recipe, dataSpace }: OpenedArchive, i: number): boolean {
  const container = dataSpace ?? volumes[entries.volume(i)]?.source;
  if (recipe.entries.blocks?.at !== undefined) return false;
  const inside = container !== undefined && entries.at(i) + entries.stored(i) <= container.size;
  return inside && recipe.entries.stepsOf(entries.method(i) ?? 0) !== undefined;
}
