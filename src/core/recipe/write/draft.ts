/** A file in the making: which entries and folders it will hold, and what formulas see of it. */
import type { Column } from '../read/columns';
import { FaultError } from '../../faults';
import { scopeOf, type EntryFacts, type FileFacts, type FolderFacts, type Scope, type Value } from '../formula/value';
import type { Limits } from '../limits';
import type { Recipe } from '../model';
import type { Keys, OpenedArchive } from '../read/archive';
import { blockCountOfEntry, blocksOfEntry } from '../read/entry-bytes';
import { NAMELESS } from '../read/entry-table';
import { LateHashes } from '../read/late-hashes';
import type { VolumeFacts } from '../read/per-volume';
import { pathHashes, type PathHashes } from '../read/path-hashes';
import type { Table } from '../read/table';
import type { NewBytes } from './new-bytes';
import { Places } from './places';

/** The entries of the file in the making, in the order of their rows. */
export interface DraftEntries {
  readonly count: number;
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
}

/** A folder of the new file; `base` is its index in the old one. */
interface DraftFolder {
  readonly base: number | undefined;
  readonly path: string;
  readonly name: string;
  readonly parent: number;
  count: number;
  first: number;
}

/** What is known of the new file between two rounds of laying it out. */
export class Draft {
  readonly places = new Places();
  readonly late = new LateHashes();
  readonly entryAt: Float64Array;
  /** The volume of each entry, by its place among those of the new file. */
  readonly entryVolume: Int32Array;
  readonly regionAt: number[];
  readonly regionLength: number[];
  volumeSizes: number[];
  private knownFolders: { folders: DraftFolder[]; folderOf: Int32Array } | undefined;
  private knownOuts: Int32Array | undefined;
  private knownBlocks: { first: Float64Array; total: number } | undefined;
  readonly facts: FileFacts;
  readonly scope: Scope;
  readonly hashes: PathHashes | undefined;
  /** What formulas see of regions; set by the writer of regions. */
  regionValue: (index: number) => Value = () => undefined;
  regionBytes: (index: number, which: 'plain' | 'stored') => Uint8Array = () => new Uint8Array(0);
  plainLength: (index: number) => number = () => 0;

  constructor(
    readonly setting: DraftSetting,
    readonly entries: DraftEntries,
    /** Each volume of the new file: its set, and its number there. */
    readonly volumes: readonly VolumeFacts[],
    /** Position of the first entry, in drafts of one. */
    private readonly firstIndex = 0,
  ) {
    const { recipe, archive } = setting;
    this.entryAt = new Float64Array(entries.count);
    this.entryVolume = new Int32Array(entries.count);
    for (let out = 0; out < entries.count; out++) {
      const base = entries.base(out);
      if (base === undefined || archive === undefined) continue;
      this.entryAt[out] = archive.entries.at(base);
      this.entryVolume[out] = Math.max(0, archive.entries.volume(base));
    }
    this.regionAt = recipe.regions.map((region) => archive?.regions.get(region.index)?.at ?? 0);
    this.regionLength = recipe.regions.map((region) => archive?.regions.get(region.index)?.length ?? 0);
    this.volumeSizes = archive?.volumes.map(({ source }) => source.size) ?? [];
    this.facts = this.fileFacts();
    this.scope = scopeOf(this.facts);
    const { hashing } = recipe.entries;
    this.hashes = archive?.hashes ?? (hashing === undefined ? undefined : pathHashes(hashing, [], this.facts));
  }

  /** A draft of one entry knows nothing of the others: what concerns all is worked out when somebody asks. */
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
  get folders(): readonly DraftFolder[] {
    return (this.knownFolders ??= this.draftFolders()).folders;
  }
  get folderOf(): Int32Array {
    return (this.knownFolders ??= this.draftFolders()).folderOf;
  }
  private get firstBlock(): Float64Array {
    return (this.knownBlocks ??= this.countBlocks()).first;
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

  path(out: number): string {
    const fresh = this.entries.fresh(out);
    return fresh?.path ?? this.setting.archive!.entries.path(this.entries.base(out)!);
  }

  entryFacts(out: number): EntryFacts {
    const { entries, setting } = this;
    const { archive, recipe } = setting;
    const fresh = entries.fresh(out);
    const base = entries.base(out);
    const before = base === undefined ? undefined : archive!.entries.facts(base);
    const path = fresh?.path ?? before!.path;
    return {
      index: this.firstIndex + out,
      path,
      // A marker lies nowhere.
      at: fresh?.deleted === true ? 0 : this.entryAt[out]!,
      stored: fresh?.stored.size ?? before!.stored,
      size: fresh?.plainSize ?? before!.size,
      method: fresh === undefined ? before!.method : fresh.method,
      volume: this.volumes[this.entryVolume[out]!]?.number ?? 0,
      volumeSet: this.volumes[this.entryVolume[out]!]?.set ?? '',
      time: fresh?.time ?? before?.time,
      deleted: fresh === undefined ? before!.deleted : fresh.deleted,
      hash: this.hashOf(path, base),
      id: before?.id ?? this.firstIndex + out,
      folderIndex: recipe.entries.folders === undefined ? -1 : (this.folderOf[out] ?? -1),
      firstBlock: recipe.entries.blocks?.each === undefined ? 0 : (this.firstBlock[out] ?? 0),
      blockCount: this.blockCountOf(out),
      content: (which, hasher) => fresh?.hashes.get(`${which}:${hasher}`),
    };
  }

  /** A row that says an entry is gone. */
  isMarker(out: number): boolean {
    const fresh = this.entries.fresh(out);
    return fresh?.deleted ?? this.setting.archive!.entries.isDeleted(this.entries.base(out)!);
  }

  folderFacts(index: number): FolderFacts {
    const { path, name, parent, count, first } = this.folders[index]!;
    return { index, path, name, parent, count, first };
  }

  /** Packed stretches of an entry. */
  blocks(out: number): readonly { index: number; at: number; stored: number; size: number; raw: boolean }[] {
    const fresh = this.entries.fresh(out);
    if (fresh !== undefined) return fresh.blocks ?? [];
    const { archive } = this.setting;
    return archive === undefined ? [] : blocksOfEntry(archive, this.entries.base(out)!);
  }

  private blockCountOf(out: number): number {
    const { archive, recipe } = this.setting;
    if (recipe.entries.blocks === undefined) return 0;
    const fresh = this.entries.fresh(out);
    if (fresh !== undefined) return fresh.blocks?.length ?? 0;
    return archive === undefined ? 0 : blockCountOfEntry(archive, this.entries.base(out)!);
  }

  /** A named entry's hash is made from its path; a nameless one keeps the one it has. */
  private hashOf(path: string, base: number | undefined): Value {
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

  /** Entries in the order in which their blocks stand in the table of blocks. */
  blockOrder(): number[] {
    const { archive, recipe } = this.setting;
    const rule = recipe.entries.blocks!;
    const outs = Array.from({ length: this.entries.count }, (_, out) => out);
    if (archive === undefined) return outs;
    const firstOf = (out: number) => {
      const base = this.entries.base(out);
      if (base === undefined || archive.entries.isDeleted(base)) return Infinity;
      const scope = scopeOf(archive.facts);
      scope.rows = [archive.entries.rows.row(archive.entries.row(base))];
      scope.entry = archive.entries.facts(base);
      return Number(rule.first!.evaluate(scope));
    };
    const keys = outs.map(firstOf);
    return outs.sort((a, b) => (keys[a] === keys[b] ? a - b : keys[a]! - keys[b]!));
  }

  /** Folders that stay, and those that added entries need. */
  private draftFolders(): { folders: DraftFolder[]; folderOf: Int32Array } {
    const { archive, recipe } = this.setting;
    const folders: DraftFolder[] = [];
    const folderOf = new Int32Array(this.entries.count).fill(-1);
    const rule = recipe.entries.folders;
    if (rule === undefined) return { folders, folderOf };
    const byPath = new Map<string, number>();
    const add = (folder: Omit<DraftFolder, 'count' | 'first'>) => {
      folders.push({ ...folder, count: 0, first: 0 });
      if (!byPath.has(folder.path)) byPath.set(folder.path, folders.length - 1);
      return folders.length - 1;
    };
    const old = archive?.folders;
    for (let i = 0; i < (old?.count ?? 0); i++) {
      const { path, name, parent } = old!.facts(i);
      add({ base: i, path, name, parent });
    }
    const chained = rule.path === undefined;
    const need = (path: string): number => {
      const known = byPath.get(path);
      if (known !== undefined) return known;
      const slash = path.lastIndexOf('/');
      const parent = !chained ? -1 : path === '' ? -1 : need(slash < 0 ? '' : path.slice(0, slash));
      return add({ base: undefined, path, name: path.slice(slash + 1), parent });
    };
    if (archive === undefined && chained) need('');
    for (let out = 0; out < this.entries.count; out++) {
      const base = this.entries.base(out);
      const path = this.path(out);
      folderOf[out] =
        base === undefined ? need(path.slice(0, Math.max(0, path.lastIndexOf('/')))) : archive!.entries.folder(base);
      const folder = folders[folderOf[out]!];
      if (folder === undefined) continue;
      if (folder.count === 0) folder.first = out;
      folder.count++;
    }
    return { folders, folderOf };
  }

  private fileFacts(): FileFacts {
    const { recipe, keys, archive } = this.setting;
    return {
      region: (index) => this.regionValue(index),
      start: (index) => this.regionAt[index]!,
      length: (index) => this.regionLength[index]!,
      plainLength: (index) => this.plainLength(index),
      bytes: (index, which) => this.regionBytes(index, which),
      entryCount: () => this.entries.count,
      blockCount: () => this.blockTotal,
      folderCount: () => this.folders.length,
      volumeFacts: (volume) => ({
        number: this.volumes[volume]?.number ?? 0,
        count: this.entryVolume.reduce((sum, one, out) => sum + (one === volume && !this.isMarker(out) ? 1 : 0), 0),
      }),
      volumeSize: (volume) => this.volumeSizes[volume] ?? 0,
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
