/** A file in the making: which entries and folders it will hold, and what formulas see of it. */
import { baseName } from '../../read/volumes';
import { FaultError } from '../../../faults';
import {
  scopeOf,
  type BlockFacts,
  type EntryFacts,
  type FileFacts,
  type FolderFacts,
  type Scope,
  type Value,
} from '../../formula/value';
import type { Limits } from '../../limits';
import type { Recipe } from '../../model';
import type { Keys, OpenedArchive } from '../../read/opened-archive';
import type { Column } from '../../read/columns';
import { blockCountOfEntry, blocksOfEntry, knownBlocks } from '../../read/entry-bytes';
import { NAMELESS } from '../../read/entry-table';
import { totalsOf } from '../../read/folder-table';
import { isInRow, rowDataPath } from '../../read/in-rows';
import { LateHashes } from '../../read/late-hashes';
import { pathHashes, type PathHashes } from '../../read/path-hashes';
import { liesIn, type VolumeFacts } from '../../read/per-volume';
import type { Table } from '../../read/table';
import { draftFolders, type DraftFolder, type DraftFolders } from '../edits/folders';
import { Graph } from '../evaluation/graph';
import { Pools } from '../evaluation/pools';
import { DraftEntry } from './draft-entry';
import type { NewBytes } from './new-bytes';
import { EntryOrder } from './order';
import { Places } from './places';

/** For each folder the entries and folders directly in it, the first of these entries, and all entries below. */
interface FolderCounts {
  readonly count: Int32Array;
  readonly first: Int32Array;
  readonly inside: Int32Array;
  readonly all: Float64Array;
}

/** The entries of the file in the making: those that stay in the order they had, then those that are added. */
export interface DraftEntries {
  readonly count: number;
  /** True when entries of the archive are not among them. */
  readonly removes: boolean;
  /** Index in the archive that is rebuilt; undefined for an added entry. */
  base(out: number): number | undefined;
  /** Set when the entry's bytes are new. */
  fresh(out: number): NewBytes | undefined;
}

export interface DraftSetting {
  readonly recipe: Recipe;
  readonly keys: Keys;
  readonly limits: Limits;
  /** The archive that is rebuilt or gives its settings to a patch; undefined when a file is made from nothing. */
  readonly archive: OpenedArchive | undefined;
  /** New bytes of regions that hold `bytes`. */
  readonly regionBytes: ReadonlyMap<number, Uint8Array>;
  /** New values of single fields, by their columns and rows. */
  readonly fieldValues: ReadonlyMap<Column, ReadonlyMap<number, Value>>;
  /** What new instances other than rows were given, by their keys. */
  readonly store: Map<string, Map<string, Value>>;
  /** Keys of pools whose texts lie in the order of the rows that point at them. */
  readonly orderedPools: ReadonlySet<string>;
  /** What is made is a small archive that loads over the one that is there. */
  readonly isPatch: boolean;
}

/** What is known of the new file between two rounds of laying it out. */
export class Draft {
  readonly places = new Places();
  readonly late = new LateHashes();
  readonly graph: Graph;
  readonly pools: Pools;
  readonly order: EntryOrder;
  readonly entryAt: Float64Array;
  /** The volume of each entry, by its place among those of the new file; -1 when it is not there. */
  readonly entryVolume: Int32Array;
  readonly regionAt: number[];
  readonly regionLength: number[];
  volumeSizes: number[];
  /** It knows one entry and nothing of the others. */
  private readonly isAlone: boolean;
  /** Formulas look at the entry before. */
  readonly usesPrevious: boolean;
  private knownFolders: DraftFolders | undefined;
  private folderCounts: FolderCounts | undefined;
  private knownOuts: Int32Array | undefined;
  private knownBlocks: { first: Float64Array; total: number } | undefined;
  private lastFolder: FolderFacts | undefined;
  private lastFacts: { out: number; facts: EntryFacts } | undefined;
  private readonly regionVolumes: number[] = [];
  readonly facts: FileFacts;
  readonly scope: Scope;
  readonly hashes: PathHashes | undefined;
  /** What formulas see of regions; set by the writer of regions. */
  regionValue: (index: number) => Value = () => undefined;
  regionBytes: (index: number, which: 'plain' | 'stored') => Uint8Array = () => new Uint8Array(0);
  plainLength: (index: number) => number = () => 0;
  /** Told whenever a formula asks where a region starts or an entry lies; see {@link watching}. */
  private watcher: { asked(what: 'region' | 'entry', index: number): void } | undefined;

  constructor(
    readonly setting: DraftSetting,
    readonly entries: DraftEntries,
    /** Each volume of the new file: its set, and its number there. */
    readonly volumes: readonly VolumeFacts[],
    /** Entries that do not lie in their rows although they did, or those like them do. */
    private readonly movedOut: ReadonlySet<number>,
    /** Position of the entry, in a draft of one. */
    alone?: number,
  ) {
    const { recipe, archive } = setting;
    this.isAlone = alone !== undefined;
    this.graph = new Graph(recipe.id);
    this.pools = new Pools(setting.orderedPools);
    this.order = new EntryOrder(entries.count, alone);
    this.entryAt = new Float64Array(entries.count);
    this.entryVolume = new Int32Array(entries.count);
    for (let out = 0; out < entries.count; out++) {
      const base = entries.base(out);
      if (base === undefined || archive === undefined) continue;
      this.entryAt[out] = archive.entries.at(base);
      this.entryVolume[out] = archive.entries.volume(base);
    }
    this.regionAt = recipe.regions.map((region) => archive?.regions.get(region.index)?.at ?? 0);
    this.regionLength = recipe.regions.map((region) => archive?.regions.get(region.index)?.length ?? 0);
    this.volumeSizes = archive?.volumes.map(({ source }) => source.size) ?? [];
    this.usesPrevious = recipe.shapes.some((shape) =>
      shape.fields.some((field) => field.is?.uses.entry.has('previous') === true),
    );
    this.facts = this.fileFacts();
    this.scope = scopeOf(this.facts);
    const { hashing } = recipe.entries;
    this.hashes = archive?.hashes ?? (hashing === undefined ? undefined : pathHashes(hashing, [], this.facts));
  }

  /** Before a round: things have moved. */
  forget(): void {
    this.lastFacts = undefined;
    this.chains = undefined;
    this.graph.begin();
    this.pools.begin();
  }
  /** When the order of the entries is another. */
  forgetOrder(): void {
    this.lastFacts = undefined;
    this.folderCounts = undefined;
    this.knownBlocks = undefined;
    this.graph.begin();
  }

  /**
   * Notes what a formula asks for of places.
   *
   * @returns what it gives, and whether it asked for the place of the region or entry itself
   */
  watching<T>(
    what: 'region' | 'entry',
    index: number,
    work: () => T,
  ): { readonly value: T; readonly asksItself: boolean } {
    let asksItself = false;
    const outer = this.watcher;
    // Remembered values would hide what they were made from.
    this.graph.begin();
    this.watcher = { asked: (kind, one) => (asksItself ||= kind === what && one === index) };
    try {
      return { value: work(), asksItself };
    } finally {
      this.watcher = outer;
      this.graph.begin();
    }
  }

  /** A draft of one entry knows nothing of the others: what concerns all is worked out when it is asked for. */
  private get outOfBase(): Int32Array {
    if (this.knownOuts === undefined) {
      this.knownOuts = new Int32Array(this.setting.archive?.entries.count ?? 0).fill(-1);
      for (let out = 0; out < this.entries.count; out++) {
        const base = this.entries.base(out);
        if (base !== undefined) this.knownOuts[base] = out;
      }
    }
    return this.knownOuts;
  }
  private get folderPlan(): DraftFolders {
    return (this.knownFolders ??= draftFolders(this.setting, this.entries, (out) => this.path(out)));
  }
  get folders(): readonly DraftFolder[] {
    return this.folderPlan.folders;
  }
  get folderOf(): Int32Array {
    return this.folderPlan.folderOf;
  }
  /** The folder of an entry, or -1. */
  folderOfEntry(out: number): number {
    const { archive, recipe } = this.setting;
    if (recipe.entries.folders === undefined) return -1;
    // A draft of one entry need not plan the folders of all others.
    const base = this.isAlone ? this.entries.base(out) : undefined;
    return base === undefined ? (this.folderOf[out] ?? -1) : archive!.entries.folder(base);
  }
  /** What became of a folder that was found: its index now, or -1. */
  folderNow(base: number): number {
    return base < 0 ? -1 : this.folderPlan.indexOf(base);
  }
  /** True for the row of a folder that went with its last entry. */
  isFolderGone(row: number): boolean {
    const { archive } = this.setting;
    const base = archive?.folders?.indexOf(row) ?? -1;
    return base >= 0 && this.folderPlan.indexOf(base) < 0;
  }
  /** Where the blocks of an entry begin in the table of blocks. */
  firstBlockOf(out: number): number {
    return (this.knownBlocks ??= this.countBlocks()).first[out] ?? 0;
  }
  get blockTotal(): number {
    return (this.knownBlocks ??= this.countBlocks()).total;
  }

  /** The entry of the new file that a row of the old one describes: -1 when it is removed, -2 when it is no entry. */
  outOfRow(table: Table, row: number): number {
    const { archive } = this.setting;
    if (archive === undefined) return -2;
    const base = archive.entries.entryOfRow(row);
    return table !== archive.entries.rows || base < 0 ? -2 : this.outOfBase[base]!;
  }
  outOf(base: number): number {
    return this.outOfBase[base]!;
  }

  /** True when bytes of entries may lie inside their rows. */
  get mayLieInRows(): boolean {
    const { recipe } = this.setting;
    return recipe.entries.data !== undefined || rowDataPath(recipe) !== undefined;
  }
  /** True for an entry whose bytes are those of a field in its row; a new one lies as the last one does. */
  isInRow(out: number): boolean {
    const { recipe, archive } = this.setting;
    if (recipe.entries.data !== undefined) return true;
    if (rowDataPath(recipe) === undefined || this.movedOut.has(out)) return false;
    const like = this.entries.base(out) ?? (archive?.entries.count ?? 0) - 1;
    return archive === undefined || like < 0 ? recipe.dataRegions.length === 0 : isInRow(archive, like);
  }

  /** True for an entry whose bytes do not lie in its row although they did, or those of entries like it do. */
  hasLeftRow(out: number): boolean {
    return this.movedOut.has(out);
  }
  /** True for an entry in its row that may as well lie elsewhere. */
  mayLeaveRow(out: number): boolean {
    const { entries, dataRegions } = this.setting.recipe;
    return entries.data === undefined && dataRegions.length > 0 && !this.movedOut.has(out);
  }

  path(out: number): string {
    const fresh = this.entries.fresh(out);
    return fresh?.path ?? this.setting.archive!.entries.path(this.entries.base(out)!);
  }

  /** The volume a region lies in, by its place among those of the new file; -1 when there is none. */
  volumeOfRegion(index: number): number {
    let place = this.regionVolumes[index];
    if (place === undefined) {
      const region = this.setting.recipe.regions[index]!;
      place = this.volumes.findIndex((volume) => liesIn(region, volume));
      this.regionVolumes[index] = place;
    }
    return place;
  }

  /** Facts of an entry; those of the last one that was asked for are remembered. */
  factsOf(out: number): EntryFacts {
    if (this.lastFacts?.out !== out) this.lastFacts = { out, facts: this.entryFacts(out) };
    return this.lastFacts.facts;
  }

  entryFacts(out: number): EntryFacts {
    return new DraftEntry(this, out);
  }

  /** Where an entry lies. */
  placeOf(out: number): number {
    this.watcher?.asked('entry', out);
    return this.entryAt[out]!;
  }

  /** A row that says an entry is gone. */
  isMarker(out: number): boolean {
    const fresh = this.entries.fresh(out);
    return fresh?.deleted ?? this.setting.archive!.entries.isDeleted(this.entries.base(out)!);
  }

  /** Facts of a folder; those of the last one that was asked for are remembered. */
  folderFacts(index: number): FolderFacts {
    if (this.folderCounts !== undefined && this.lastFolder?.index === index) return this.lastFolder;
    return (this.lastFolder = this.factsOfFolder(index));
  }

  private factsOfFolder(index: number): FolderFacts {
    const { path, name, parent } = this.folders[index]!;
    this.folderCounts ??= this.countInFolders();
    const { count, first, all, inside } = this.folderCounts;
    const counts = { count: count[index]!, first: first[index]!, all: all[index]!, folders: inside[index]! };
    return { index, path, name, parent, ...counts };
  }

  private countInFolders(): FolderCounts {
    const count = new Int32Array(this.folders.length);
    const first = new Int32Array(this.folders.length);
    for (let position = 0; position < this.entries.count; position++) {
      const folder = this.folderOf[this.order.at(position)]!;
      if (folder < 0) continue;
      if (count[folder] === 0) first[folder] = position;
      count[folder]!++;
    }
    const inside = new Int32Array(this.folders.length);
    for (const { parent } of this.folders) if (parent >= 0) inside[parent]!++;
    return { count, first, inside, all: totalsOf(count, (folder) => this.folders[folder]!.parent) };
  }

  /** Packed stretches of an entry. */
  blocks(out: number): readonly BlockFacts[] {
    const fresh = this.entries.fresh(out);
    if (fresh !== undefined) return fresh.blocks ?? [];
    const { archive } = this.setting;
    return archive === undefined ? [] : blocksOfEntry(archive, this.entries.base(out)!);
  }

  /** One of them, with the number it has in the table of blocks of the new file. */
  blockOf(out: number, index: number): BlockFacts | undefined {
    const block = this.blocks(out)[index];
    if (block === undefined || this.setting.recipe.entries.blocks?.each === undefined) return block;
    return { ...block, number: this.firstBlockOf(out) + index };
  }

  blockCountOf(out: number): number {
    const { archive, recipe } = this.setting;
    if (recipe.entries.blocks === undefined) return 0;
    const fresh = this.entries.fresh(out);
    if (fresh !== undefined) return fresh.blocks?.length ?? 0;
    return archive === undefined ? 0 : blockCountOfEntry(archive, this.entries.base(out)!);
  }

  /** A named entry's hash is made from its path; a nameless one keeps the one it has. */
  hashOf(path: string, base: number | undefined): Value {
    const { archive, recipe } = this.setting;
    if (recipe.entries.hash === undefined) return undefined;
    if (base !== undefined && !archive!.entries.isNamed(base)) return archive!.entries.hash(base);
    if (base === undefined && path.startsWith(NAMELESS)) {
      const digits = /^([0-9a-f]{8}|[0-9a-f]{16})/.exec(path.slice(NAMELESS.length))?.[1];
      if (digits !== undefined) {
        const wide = BigInt(`0x${digits}`);
        return wide <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(wide) : wide;
      }
    }
    return this.hashes?.hashOf(path);
  }

  private countBlocks(): { first: Float64Array; total: number } {
    const rule = this.setting.recipe.entries.blocks;
    const first = new Float64Array(rule === undefined ? 0 : this.entries.count);
    if (rule?.each === undefined) return { first, total: 0 };
    let total = 0;
    for (const out of this.blockOrder()) {
      first[out] = total;
      total += this.blocks(out).length;
    }
    return { first, total };
  }

  /** Entries in the order in which their blocks are in the table of blocks. */
  blockOrder(): number[] {
    const { archive, recipe } = this.setting;
    const rule = recipe.entries.blocks!;
    const outs = Array.from({ length: this.entries.count }, (_, position) => this.order.at(position));
    if (archive === undefined) return outs;
    const firstOf = (out: number) => {
      const base = this.entries.base(out);
      if (base === undefined || archive.entries.isDeleted(base)) return Infinity;
      if (rule.first === undefined) return knownBlocks(archive, base)[0]?.number ?? Infinity;
      const scope = scopeOf(archive.facts);
      scope.rows = [archive.entries.rows.row(archive.entries.row(base))];
      scope.entry = archive.entries.facts(base);
      return Number(rule.first.evaluate(scope));
    };
    const keys = new Map(outs.map((out) => [out, firstOf(out)]));
    return outs.sort((a, b) => (keys.get(a) === keys.get(b) ? a - b : keys.get(a)! - keys.get(b)!));
  }

  /** For each block where it lies, and where the one behind it does; the last one leads to itself. */
  private chainsNow(): ReadonlyMap<number, number> {
    const chains = new Map<number, number>();
    for (let out = 0; out < this.entries.count; out++) {
      if (this.isMarker(out)) continue;
      const start = this.placeOf(out);
      const places = this.blocks(out).map(({ at }) => start + at);
      for (const [i, place] of places.entries()) chains.set(place, places[i + 1] ?? place);
    }
    return chains;
  }
  private chains: ReadonlyMap<number, number> | undefined;

  private fileFacts(): FileFacts {
    const { recipe, keys, archive } = this.setting;
    return {
      packedFields: archive?.facts.packedFields ?? new Map<string, Uint8Array>(),
      region: (index) => this.regionValue(index),
      start: (index) => {
        this.watcher?.asked('region', index);
        return this.regionAt[index]!;
      },
      length: (index) => this.regionLength[index]!,
      plainLength: (index) => this.plainLength(index),
      bytes: (index, which) => this.regionBytes(index, which),
      entryCount: () => this.entries.count,
      entryFacts: (index) => this.entryFacts(this.order.at(index)),
      blockCount: () => this.blockTotal,
      blockAfter: (at) => (this.chains ??= this.chainsNow()).get(at),
      // What is written lies in one stretch for each entry, and shares nothing.
      blockUses: () => 1,
      folderCount: () => this.folders.length,
      volumeFacts: (volume) => ({
        number: this.volumes[volume]?.number ?? 0,
        count: this.entryVolume.reduce((sum, one, out) => sum + (one === volume && !this.isMarker(out) ? 1 : 0), 0),
      }),
      fileName: () => baseName(this.setting.archive?.outer.name ?? ''),
      volumeSize: (volume) => this.volumeSizes[volume] ?? 0,
      volumeIndex: (set, number) =>
        this.volumes.findIndex((one) => one.set === set && (number === undefined || one.number === number)),
      volumeCount: () => Math.max(0, this.volumes.length - recipe.volumes.filter(({ numbered }) => !numbered).length),
      key: (slot) => {
        const key = keys.get(slot);
        if (key !== undefined) return key;
        throw new FaultError({ code: 'key-missing', what: `the slot "${slot}" needs a key` });
      },
      endianness: (scope) =>
        archive?.facts.endianness(scope) ??
        ((recipe.endianness?.evaluate(scopeOf(this.facts)) ?? 'little') as 'little' | 'big'),
      spanHash: (hasher, place, from, to, blank) => this.late.get({ hasher, ...place, from, to, blank }),
    };
  }
}
