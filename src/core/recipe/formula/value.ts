/** What formulas compute with. */
import type { Endianness } from '../../bytes';
import type { ContentPart, Shape } from '../model';

/** One instance of a shape: its fields by their index in the shape. Absent fields (`when` false) are undefined. */
export interface Fields {
  readonly shape: Shape;
  get(index: number): Value;
  /** Offset of a field that some formula asks `start` of, in the file or in the unlocked region. */
  startOf(index: number): number;
  /** Bytes of a field that some formula asks `length` of. */
  lengthOf(index: number): number;
}

/** Items of a repeated field. */
export interface ListValue {
  readonly length: number;
  at(index: number): Value;
}

/** Texts behind one another that others point into. */
export interface PoolValue {
  readonly pool: true;
  readonly count: number;
  /** The text that starts at an offset into the pool. @throws FormatError `outside-file` */
  textAt(offset: number): string;
  /** The n-th text. */
  text(index: number): string;
  /** Offset of a text; `found` is preferred where it is right. While writing, a text that is not there is added. */
  place(text: string, found: Value): number;
  /** Number of a text, in the same way. */
  indexOf(text: string, found: Value): number;
  /** All texts, as they are stored. */
  bytes(): Uint8Array;
  /** Begins to note in which order texts are asked for. */
  watch(): void;
  /** Whether all texts have been asked for since then, in the order in which they lie, each for the first time. */
  wasInOrder(): boolean;
}

/** A stretch of a volume that is not held in memory: the data of an entry inside its row, or a large byte string. */
export interface Stretch {
  readonly stretch: true;
  /** Offset in the bytes the region was read from. */
  readonly at: number;
  readonly length: number;
}

export type Value =
  number | bigint | string | boolean | Uint8Array | undefined | Fields | ListValue | PoolValue | Stretch;

/** What a formula can see of one entry. Absent facts are undefined. */
export interface EntryFacts {
  /** Position among the rows, from 0. */
  readonly index: number;
  readonly path: string;
  /** Offset of the stored bytes in their volume. */
  readonly at: number;
  /** Length of the stored bytes. */
  readonly stored: number;
  /** Length of the plain bytes. */
  readonly size: number;
  readonly method: Value;
  /** Number of the volume in its set. */
  readonly volume: number;
  /** The name of that set. */
  readonly volumeSet: string;
  /** Milliseconds since 1970. */
  readonly time: number | undefined;
  readonly deleted: boolean;
  readonly hash: Value;
  readonly id: Value;
  /** Index of the entry's folder in the table of folders. */
  readonly folderIndex: number;
  /** Where its blocks begin in the table of blocks, and how many there are. */
  readonly firstBlock: number;
  readonly blockCount: number;
  /** A hash over bytes of the entry, computed beforehand. */
  content(which: ContentPart, hasher: string): Value;
}

/** One block of an entry that is packed in blocks. */
export interface BlockFacts {
  readonly index: number;
  /** Its number in the table of blocks or in its chain; its index where there is neither. */
  readonly number: number;
  /** Offset of the block's stored bytes behind the start of the first block. */
  readonly at: number;
  readonly stored: number;
  readonly size: number;
  readonly raw: boolean;
  /** Offset in the volume of one that was found away from those before it. */
  readonly place?: number | undefined;
}

/** One folder of a table or tree of folders. */
export interface FolderFacts {
  readonly index: number;
  readonly path: string;
  readonly name: string;
  /** Index of the folder above; -1 for one at the top. */
  readonly parent: number;
  /** Entries that lie in it directly, and the index of the first of them. */
  readonly count: number;
  readonly first: number;
  /** Entries that lie in it or in a folder below. */
  readonly all: number;
  /** Folders that lie in it directly. */
  readonly folders: number;
}

/** What a formula can see of the whole file, while it is read or while it is laid out again. */
/** What the offsets of a span count in. */
export interface SpanPlace {
  /** An unlocked region; undefined for a file itself. */
  readonly space: number | undefined;
  /** The file, by its place among the opened volumes. */
  readonly volume: number;
}

export interface FileFacts {
  region(index: number): Value;
  start(region: number): number;
  /** Stored bytes of a region. */
  length(region: number): number;
  bytes(region: number, which: 'plain' | 'stored'): Uint8Array;
  entryCount(): number;
  /** The facts of an entry, by its place among the rows. */
  entryFacts(index: number): EntryFacts | undefined;
  blockCount(): number;
  /** Where the block behind the one at an offset begins: the same offset behind the last; nothing where no block begins. */
  blockAfter(at: number): number | undefined;
  /** How many blocks of entries are the one of this number in the table of blocks. */
  blockUses(number: number): number;
  folderCount(): number;
  /** Bytes of a region behind its steps. */
  plainLength(index: number): number;
  /** Number of a volume in its set, and how many entries lie in it; by its place among the opened ones. */
  volumeFacts(volume: number): { readonly number: number; readonly count: number };
  /** Bytes of a volume, by its place among the opened ones. */
  volumeSize(volume: number): number;
  /** The place of a volume among the opened ones, by its set and its number in it; -1 when it is not there. */
  volumeIndex(set: string, number: number | undefined): number;
  /** The name of the main file. */
  fileName(): string;
  /** How many numbered volumes there are. */
  volumeCount(): number;
  key(slot: string): Uint8Array;
  /** The endianness of recipes whose file says it; `scope` is that of the field which asks. */
  endianness(scope: Scope): Endianness;
  /**
   * A hash over bytes `[from, to)` of the finished main volume, or of the unlocked bytes of region `space`; known only
   * when the layout is.
   */
  spanHash(hasher: string, place: SpanPlace, from: number, to: number, blank: Blank | undefined): Value;
  /** How compressed fields were stored when they were read, by what they hold: who packed them may pack otherwise. */
  readonly packedFields: Map<string, Uint8Array>;
}

/** Bytes that count as something else while a checksum over them is made. */
export interface Blank {
  readonly at: number;
  readonly length: number;
  readonly fill: number;
}

export interface Scope {
  file: FileFacts;
  /** The shape instance whose fields are named bare. */
  fields: Fields | undefined;
  /** The instances around it, the innermost last. */
  outer: Fields[];
  /** The rows bound by `each` and `beside`, in that order. */
  rows: readonly (Fields | undefined)[];
  entry: EntryFacts | undefined;
  /** The entry before, in the order of the rows. */
  previous: EntryFacts | undefined;
  /** Bytes from the entry's start to whatever comes next in its volume. */
  room: number | undefined;
  block: BlockFacts | undefined;
  folder: FolderFacts | undefined;
  /** The instance of `wrap` around the entry's bytes. */
  own: Fields | undefined;
  /** The item of a list just read, and its number. */
  item: Value;
  index: number;
  /** While items are counted or summed up, the index of the row whose formula does. */
  ownIndex?: number | undefined;
  /** The value that stood in the field; a formula may prefer it among equals. */
  found: Value;
  /** Offset of the field at hand. */
  here: number;
  /** The volume at hand, by its place among the opened ones. */
  volume: number;
  /** While a layout is still being found, a number that does not fit its field is set aside and counted here. */
  unfitCount: number | undefined;
  /** Entries of the file in the making whose rows do not hold as many bytes as they should, while `unfitCount` counts. */
  notHeld: Set<number> | undefined;
  /** Sizes that follow from what is written are not known yet: what they confine is written as long as it is. */
  unsized: boolean;
  /** `before` and `after` find nothing: shows what a formula says without the rows around. */
  alone: boolean;
  /** Values of names from `let`, as long as nothing they could look at changes. */
  lets: Map<object, Value> | undefined;
}

const NO_ROWS: Scope['rows'] = [];

/** A scope in which nothing but the file is known. */
export function scopeOf(file: FileFacts): Scope {
  return {
    file,
    fields: undefined,
    outer: [],
    rows: NO_ROWS,
    entry: undefined,
    previous: undefined,
    room: undefined,
    block: undefined,
    folder: undefined,
    own: undefined,
    item: undefined,
    index: 0,
    found: undefined,
    here: 0,
    volume: 0,
    unfitCount: undefined,
    notHeld: undefined,
    unsized: false,
    alone: false,
    lets: undefined,
  };
}

/** Equality across number kinds and between byte strings. */
export function sameValue(a: Value, b: Value): boolean {
  if (a === b) return true;
  if (a instanceof Uint8Array && b instanceof Uint8Array) return Buffer.compare(a, b) === 0;
  if ((typeof a === 'bigint' || typeof b === 'bigint') && isNumeric(a) && isNumeric(b)) return !(a < b) && !(a > b);
  if (typeof a === 'boolean' && isNumeric(b)) return Number(a) === Number(b);
  if (typeof b === 'boolean' && isNumeric(a)) return Number(b) === Number(a);
  return typeof a === 'number' && typeof b === 'number' && Number.isNaN(a) && Number.isNaN(b);
}

export function isNumeric(value: Value): value is number | bigint {
  return typeof value === 'bigint' || (typeof value === 'number' && Number.isFinite(value));
}

export function isFields(value: Value): value is Fields {
  return typeof value === 'object' && 'shape' in value;
}

export function isPool(value: Value): value is PoolValue {
  return typeof value === 'object' && (value as PoolValue).pool === true;
}

export function isStretch(value: Value): value is Stretch {
  return typeof value === 'object' && (value as Stretch).stretch === true;
}

export function isList(value: Value): value is ListValue {
  return typeof value === 'object' && 'at' in value && 'length' in value && !isStretch(value) && !isBytes(value);
}

function isBytes(value: Value): value is Uint8Array {
  return value instanceof Uint8Array;
}

export function truthy(value: Value): boolean {
  return value !== undefined && value !== false && value !== 0 && value !== 0n && value !== '';
}
