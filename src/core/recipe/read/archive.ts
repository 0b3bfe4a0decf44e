/** Opening an archive with a recipe: regions in the order they can be read, then folders and entries. */
import { bufferSource, collect, type ByteSource } from '../../bytes';
import { prepareCodecs } from '../../codecs';
import { FaultError, FormatError, throwIfStopped } from '../../faults';
import { scopeOf, type FileFacts } from '../formula/value';
import { DEFAULT_LIMITS, type Limits } from '../limits';
import type { Recipe, Region } from '../model';
import { LISTING, listingBytes } from '../language/folder-text';
import { prepareSandbox } from '../sandbox/own-step';
import { readingBudget } from './budget';
import type { EntrySetting } from './entry-setting';
import { readFolders } from './folder-table';
import { LateHashes } from './late-hashes';
import type { Keys, OpenedArchive, OpenOptions } from './opened-archive';
import { openingFacts } from './opening-facts';
import type { OpeningState } from './opening-state';
import { pathHashes, type PathHashes } from './path-hashes';
import { forVolumes, isTemplate, liesIn } from './per-volume';
import { readEntryTable } from './read-entry-table';
import { readRegion, type FoundRegion, type RegionSetting } from './read-region';
import { boundRows, rowsByNumber, type BoundRows } from './rows';
import { checkMatch } from './signature';
import { readSolid } from './solid';
import { Tables } from './table';
import { decodeChunks, prepareChain } from './through';
import { assignVolumes, volumeFactsOf, type OpenVolume } from './volumes';
import { readWrap, type FoundWrap } from './wrap';

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

class Opening {
  private readonly limits: Limits;
  private readonly state: OpeningState;
  private readonly facts: FileFacts;
  private solidSpace: ByteSource | undefined;
  /** The region being read. */
  reading: LockedRegion | undefined;

  constructor(
    recipe: Recipe,
    files: readonly ByteSource[],
    private readonly options: OpenOptions,
  ) {
    this.limits = { ...DEFAULT_LIMITS, ...options.limits };
    const keys: Keys = options.keys ?? new Map<string, Uint8Array>();
    this.state = { recipe, files, keys, found: new Map(), late: new LateHashes(), volumes: [] };
    this.facts = openingFacts(this.state);
  }

  async open(): Promise<OpenedArchive> {
    const { state, facts, limits } = this;
    const outer = state.files[0]!;
    await checkMatch(state.recipe, outer);
    const source = await this.unwrapped(outer);
    state.volumes = withListing(state.recipe, assignVolumes(state.recipe, [source, ...state.files.slice(1)]));
    state.recipe = forVolumes(state.recipe, state.volumes.map(volumeFactsOf));
    await this.readRegions();
    const hashes = await this.readEntries();
    const { recipe, volumes, keys, found: regions, entries, folders, blocks: blockRows, late } = state;
    state.opened = {
      ...{ recipe, source, outer, volumes, keys, limits, regions, facts, late, hashes, folders, blockRows },
      entries: entries!,
      dataSpace: this.dataSpace(),
    };
    return state.opened;
  }

  private async readRegions(): Promise<void> {
    const { state, facts, limits, options } = this;
    const { recipe, volumes } = state;
    const budget = readingBudget(
      limits,
      volumes.reduce((sum, one) => sum + one.source.size, 0),
    );
    const { each, beside } = recipe.entries;
    const tolerant = new Set([each, ...beside].map(({ shape }) => shape));
    const tolerantRegions = new Set([each, ...beside].map(({ region }) => region));
    for (const index of recipe.readingOrder) {
      throwIfStopped(options.signal);
      const region = recipe.regions[index]!;
      if (isTemplate(region)) continue;
      const volume = volumes.findIndex((one) => liesIn(region, volumeFactsOf(one)));
      if (volume < 0) continue;
      const { source } = volumes[volume]!;
      this.reading = { region, source, facts };
      try {
        const base = { source, volume, facts, limits, budget, signal: options.signal };
        const setting = tolerantRegions.has(index) ? { ...base, tolerant } : base;
        const read =
          region === recipe.solid ? await this.readSolid(region, setting) : await readRegion(region, setting);
        if (read !== undefined) state.found.set(index, read);
      } catch (error) {
        throw this.explained(error, region);
      }
    }
  }

  /** @returns the names that hashes of paths may stand for */
  private async readEntries(): Promise<PathHashes | undefined> {
    const { state, facts, options } = this;
    const { recipe, found } = state;
    const rule = recipe.entries;
    const bound = boundRows(recipe, found, rule.each, rule.folders?.each.shape);
    if (bound === undefined)
      throw new FormatError({
        code: 'must-differs',
        line: rule.line,
        what: `the rows of the entries are not there: region ${recipe.regions[rule.each.region]!.name} is left out`,
      });
    if (rule.folders !== undefined) state.folders = readFolders(recipe, rule.folders, found, facts);
    if (rule.blocks?.each !== undefined) state.blocks = boundRows(recipe, found, rule.blocks.each);
    const hashes = rule.hashing === undefined ? undefined : pathHashes(rule.hashing, options.names ?? [], facts);
    state.entries = await readEntryTable(this.entrySetting(bound, hashes));
    return hashes;
  }

  private entrySetting(bound: BoundRows, hashes: PathHashes | undefined): EntrySetting {
    const { facts } = this;
    const { recipe, found, volumes, folders } = this.state;
    const rule = recipe.entries;
    return {
      recipe,
      facts,
      volumes,
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
      folders,
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
    const { recipe, volumes } = this.state;
    const wraps: (FoundWrap | undefined)[] = [];
    const faults = new Map<number, FaultError>();
    const tables = new Tables();
    for (let i = 0; i < table.count; i++) {
      throwIfStopped(this.options.signal);
      const source = volumes[table.volume(i)]?.source;
      if (source === undefined) continue;
      try {
        const scope = table.scope(i);
        wraps[i] = await readWrap(recipe.entries, source, table.at(i), table.room(i), scope, this.limits, tables);
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
    const formulas = this.state.recipe.shapes.flatMap((shape) => shape.fields.map(({ is }) => is));
    const hashed = formulas.some((formula) => formula?.uses.regionBytes.has(region.index) === true);
    const read = await readSolid(region, { ...setting, scratch: this.options.scratch, hashed });
    this.solidSpace = read?.space;
    return read?.found;
  }

  /** The unlocked bytes entries lie in: of their rows, or of the region that holds them packed together. */
  private dataSpace(): ByteSource | undefined {
    if (this.solidSpace !== undefined) return this.solidSpace;
    const { recipe, found, files } = this.state;
    const { data, each } = recipe.entries;
    const region = found.get(each.region);
    if (data === undefined || region === undefined || !region.unlocked) return undefined;
    return bufferSource(region.plain!, `${files[0]!.name} (${region.region.name})`);
  }

  /** Unpacks a file that is packed as a whole. */
  private async unwrapped(outer: ByteSource): Promise<ByteSource> {
    const { limits, options, facts } = this;
    const { recipe } = this.state;
    if (recipe.wrapped.length === 0) return outer;
    const most = options.scratch === undefined ? limits.maxRegionBytes : limits.maxEntryBytes;
    const chain = prepareChain(recipe.wrapped, { scope: scopeOf(facts), maxPlainBytes: most, choose: true });
    const chunks = decodeChunks(outer, chain, { maxStoredBytes: limits.maxRegionBytes, signal: options.signal });
    if (options.scratch !== undefined) return options.scratch.keep(chunks, outer.name);
    return bufferSource(await collect(chunks), outer.name);
  }

  /** Adds the region to a fault; where a checksum covers it and disagrees too, says so. */
  private explained(error: unknown, region: Region): unknown {
    if (!(error instanceof FaultError)) return error;
    const covering = [...this.state.found.values()].flatMap(({ region: other, tables }) =>
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
