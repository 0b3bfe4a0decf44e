/** A compiled recipe: plain data and closures, made once from the checked text. */
import type { ByteWriter, Cursor } from '../bytes';
import type { Codec } from '../codecs';
import type { Fields, PoolValue, Scope, Value } from './formula/value';
import type { NUMBER_KINDS, POSE_NUMBERS, VERTEX_NUMBERS } from './language/schema';
import type { TextCodec } from './kinds/text-codec';
import type { Limits } from './limits';
import type { Column, Tables } from './read/table';

/** What a formula depends on; decides what must be computed anew when something changes. */
export interface Uses {
  /** Offsets, lengths, counts: what only the finished layout tells. */
  layout: boolean;
  /** The same without the lengths of fields, which stay wherever these lie. */
  place: boolean;
  /** Fields of other shapes that are named, as far as the recipe tells them. */
  readonly fields: { readonly shape: Shape; readonly index: number }[];
  /** Fields of other shapes, whose values may themselves follow the layout. */
  elsewhere: boolean;
  /** Bare fields of the same shape, by index. */
  readonly siblings: Set<number>;
  /** Hashes over the bytes of the entry. */
  readonly content: ContentHash[];
  /** Regions whose bytes are hashed, by index. */
  readonly regionBytes: Set<number>;
  /** Regions whose fields are read, by index. */
  readonly regions: Set<number>;
  /** Facts of the entry, by name; `own` and `block` count as such. */
  readonly entry: Set<string>;
  /** Hashes over bytes of the whole file. */
  late: boolean;
  /** The size of a volume. */
  end: boolean;
  /** Rows near the entry's own that are looked at. */
  readonly neighbours: Neighbour[];
}

/** Bytes of an entry: the plain ones, the stored ones, or those behind so many steps of its chain. */
export type ContentPart = 'data' | 'packed' | `behind-${number}`;

/** A hash over bytes of an entry. */
export interface ContentHash {
  readonly which: ContentPart;
  /** What formulas ask for it by. */
  readonly name: string;
  /** The key of its hasher, whose parameters may stand in the file. */
  hasher(scope: Scope): string;
}

/** `before(row, test)` or `after(row, test)` over the rows of the entries. */
export interface Neighbour {
  /** -1 for the rows before, 1 for those after. */
  readonly step: -1 | 1;
  /** The nearest row for which the test holds, in a scope whose rows are those of an entry. */
  find(scope: Scope): Fields | undefined;
}

export interface Formula {
  readonly text: string;
  /** 1-based line in the recipe. */
  readonly line: number;
  readonly uses: Uses;
  evaluate(scope: Scope): Value;
  /** Set when the formula is nothing but one property of the entry, such as `entry.at`. */
  readonly entryProperty?: string;
  /** Set when the formula is nothing but one field of the bound row. */
  readonly rowField?: number;
}

/** The volume bytes come from, for fields that lie elsewhere in it. */
export interface ReadContext {
  readonly scope: Scope;
  readonly limits: Limits;
  readonly tables: Tables;
  /** Bytes of the region beyond the cursor's window, when it was fetched in part. */
  beyond: number;
  depth: number;
  /** How many `must` have held so far: what tells a wrong key from damage. */
  held: number;
  /** Shapes of which one bad row is noted in its table, and the others are read on. */
  readonly tolerant?: ReadonlySet<Shape> | undefined;
  /** True while items of a list are read whose bytes end at a known place: one that runs over it costs no others. */
  listEnds?: boolean | undefined;
  /** Set by a kind that could read a value which a strict reader would not take, and taken by who reads the row. */
  remark?: { readonly what: string; readonly expected: string; readonly found: string } | undefined;
  /** Bytes from the start of the window that are known to be needed. */
  needed: number;
  /** Counts what was read; checked against limits of time and rows. */
  readonly budget: Budget;
  /** All bytes a field with `at` may lie in, by their offset; undefined where it may lie nowhere else. */
  readonly elsewhere: ((at: number) => Cursor) | undefined;
  /** Told of every field as it is read: the row's number in its table, and offsets from `start` up to `end`. */
  readonly trace?: (field: Field, shape: Shape, row: number, start: number, end: number, value: Value) => void;
}

export interface Budget {
  /** Rows counted so far; set back where an attempt to read some did not count. */
  rows: number;
  /** Counts one row. @throws LimitError when there are too many, or when reading takes too long */
  row(offset: number): void;
}

export interface FieldKind {
  /** As written in the recipe. */
  readonly text: string;
  /** Bytes, when every instance has the same length. */
  readonly fixedSize: number | undefined;
  /** The fewest bytes an instance can have. */
  readonly minSize: number;
  readonly type: FieldType;
  /** True when an instance may be too large for memory: it is then read piece by piece. */
  readonly flows: boolean;
  /** Shapes an instance holds directly. */
  readonly shapes?: readonly Shape[];
  /** Regions that counts and lengths in the kind look at. */
  readonly needs?: readonly number[];
  /** Of a list, the formula that counts its items. */
  readonly listCount?: Formula;
  /** The names its values have. */
  readonly names?: readonly string[];
  /** All kinds of which the file chooses one. */
  readonly alternatives?: readonly FieldKind[];
  /** Of several kinds, the one the scope chooses. */
  chosen?(scope: Scope): FieldKind;
  /** A pool of its own over bytes that were found, to which texts may be added. */
  poolOf?(found: Uint8Array): PoolValue;
  makeColumn(tables: Tables): Column;
  /** Reads one instance into row `row` of `column`. */
  read(cursor: Cursor, column: Column, row: number, context: ReadContext): void;
  /** The same from a file that is fetched on the way; only where {@link flows}. */
  readFlow?(flow: Flow, column: Column, row: number, context: ReadContext): Promise<void>;
  /** @throws FormatError `layout-impossible` when the value does not fit */
  write(writer: RegionWriter, value: Value, scope: Scope): void;
}

/** A file read on the way: a window that moves along it. */
export interface Flow {
  /** Offset in the volume. */
  position: number;
  /** Where the bytes at hand end, exclusive. */
  end: number;
  /** Moves on by so many bytes without reading them. @throws FormatError `cut-short` past the end */
  skip(length: number): void;
  /** Reads an instance that lies in the window whole. @returns false when it does not, and nothing was read */
  inside(kind: FieldKind, column: Column, row: number, context: ReadContext): boolean;
  /** Reads one small instance, fetching as much as it turns out to need. */
  small(kind: FieldKind, column: Column, row: number, context: ReadContext): Promise<void> | undefined;
}

/** Bytes of a region in the making; large stretches are named, not copied. */
export interface RegionWriter extends ByteWriter {
  /** Offset in the file (or in the unlocked region) of what is written next. */
  readonly position: number;
  splice(stretch: SplicedBytes): void;
  /** Writes what a field with `at` holds in a piece of its own. */
  apart(found: FoundPart | undefined, align: number, write: (writer: RegionWriter) => void): void;
}

/** Where a field that lies elsewhere was found. */
export interface FoundPart {
  readonly at: number;
  readonly length: number;
}

export interface SplicedBytes {
  readonly length: number;
  /** The entry whose bytes these are, in the new file; undefined for bytes that are only kept. */
  readonly out?: number;
  /** Where they were found. */
  readonly from?: number;
}

export type FieldType =
  | {
      readonly kind: 'value';
      readonly of: 'number' | 'text' | 'bytes';
      readonly parts?: ReadonlyMap<string, { shift: number; width: number }>;
    }
  | { readonly kind: 'shape'; readonly shape: Shape }
  | { readonly kind: 'list'; readonly of: FieldType }
  | { readonly kind: 'pool' }
  /** `rest`: as many bytes as there are, where only the blocks tell how many belong to the entry. */
  | { readonly kind: 'data'; readonly rest: boolean }
  /** One of several, told by the file. */
  | { readonly kind: 'any' };

/** What `must` demands. */
export interface Demand {
  readonly text: string;
  holds(value: Value): boolean;
  /** The value to write when the field has no other; undefined where only what it must not be is said. */
  readonly only: Value;
  /** All values that hold, where they can be counted out. */
  readonly choices: readonly Value[] | undefined;
}

/** Some bits of a number. */
export interface Part {
  readonly name: string;
  readonly line: number;
  readonly shift: number;
  readonly width: number;
  readonly must: Demand | undefined;
  readonly is: Formula | undefined;
  readonly fresh: Formula | undefined;
}

export interface Field {
  readonly name: string;
  readonly index: number;
  readonly line: number;
  readonly kind: FieldKind;
  readonly must: Demand | undefined;
  readonly is: Formula | undefined;
  readonly when: Formula | undefined;
  /** The value in a new row or file; a neighbour's is copied from the row before. */
  readonly fresh: Formula | 'neighbour' | undefined;
  readonly parts: readonly Part[];
  /** The field lies elsewhere, at this offset. */
  readonly at: Formula | undefined;
  /** Alignment of a field that lies elsewhere. */
  readonly align: number;
  /** The bytes its instance is confined to. */
  readonly size: Formula | undefined;
  /** Order of the rows of a list. */
  readonly sort: readonly Formula[];
  readonly checks: readonly Check[];
  /** Set when a formula asks for the start or length of the field. */
  marked: boolean;
  /** Set when a formula of another instance asks for the value of the field. */
  asked: boolean;
}

/** How a rebuilt archive is laid out; see `LAYOUTS`. */
export type Layout = 'keep' | 'append' | 'afresh' | 'patch';

/** A condition of the recipe's own, and what is wrong where it does not hold. */
export interface Check {
  readonly that: Formula;
  readonly say: string;
}

export interface Shape {
  readonly name: string;
  readonly line: number;
  readonly fields: readonly Field[];
  readonly fixedSize: number | undefined;
  readonly minSize: number;
  /** True when an instance can hold another of its own shape. */
  readonly recursive: boolean;
  /** True when an instance may hold data, or fields that lie elsewhere: it is then read piece by piece. */
  readonly flows: boolean;
  /** True when it flows for nothing but data of stated length: an instance that is at hand whole can be read at once. */
  readonly compact: boolean;
  indexOf(name: string): number;
}

/** One step of a `through` chain with its parameters. */
export interface Step {
  readonly text: string;
  readonly line: number;
  readonly codec: Codec;
  readonly params: Readonly<Record<string, Formula>>;
  /** Key slots among the parameters. */
  readonly slots: readonly string[];
  readonly when: Formula | undefined;
}

/** Where a region is looked for when its place is told by its content. */
export interface Search {
  readonly bytes: Uint8Array;
  /** Offset the search starts from; the end of the file when it goes backwards. */
  readonly from: Formula | undefined;
  readonly backwards: boolean;
}

export interface Region {
  readonly name: string;
  readonly index: number;
  readonly line: number;
  /** Which set of volumes it lies in. */
  readonly volume: string;
  /** It stands in every volume of a numbered set. */
  readonly eachVolume: boolean;
  /** The number of the volume it stands in, where one stands in each. */
  readonly number: number | undefined;
  /** The index of the region it is one of, as the recipe has it. */
  readonly template: number | undefined;
  readonly at: Formula | undefined;
  readonly search: Search | undefined;
  /** Set when `at` is a constant: the region never moves. */
  readonly fixedAt: number | undefined;
  readonly length: Formula | undefined;
  /** Plain length behind the `through` chain, where the format states it. */
  readonly plain: Formula | undefined;
  readonly when: Formula | undefined;
  readonly through: readonly Step[];
  /** What lies in it: one shape, the entries, or bytes nobody looks into. */
  readonly holds: FieldKind | 'entries' | 'bytes';
  readonly align: number;
  readonly fill: number;
  /** Whether entries in it must lie in the order of their rows; undefined where the recipe does not say. */
  readonly order: 'rows' | 'any' | undefined;
  /** Whether bytes may lie unused between its entries; undefined where the recipe does not say. */
  readonly gaps: 'none' | 'kept' | undefined;
  /** Behind its last entry stands fill up to a multiple of this. */
  readonly tail: number | undefined;
  readonly sort: readonly Formula[];
  /** Its rows are slots of a hash table. */
  readonly slots: SlotRule | undefined;
}

/** A table in which each row stands where a search for it leads. */
export interface SlotRule {
  /** The number that, divided by how many slots there are, leaves the slot where a search begins. */
  readonly by: Formula;
  /** Holds for a slot at which a search ends. */
  readonly free: Formula;
  /** Holds for a slot whose row is gone, and where a search goes on. */
  readonly deleted: Formula | undefined;
  readonly step: Formula | undefined;
  /** The most used slots of a hundred, before there are twice as many. */
  readonly full: number;
}

/** How an entry was packed: the value of the method field, or the set of steps whose `when` held, as a bit mask. */
export type Method = Value;

/** A name that stands for the row of each entry, or of each block or folder. */
export interface Binding {
  readonly name: string;
  readonly region: number;
  readonly fieldPath: readonly number[];
  readonly shape: Shape;
  /** True when all instances of the shape anywhere below count, not the items of one list. */
  readonly anywhere: boolean;
}

export interface BlocksRule {
  readonly line: number;
  /** Plain bytes of every block but the last. */
  readonly size: Formula;
  readonly stored: Formula;
  readonly through: readonly Step[];
  readonly align: number;
  /** The table of blocks, where it is one for all entries. */
  readonly each: Binding | undefined;
  readonly first: Formula | undefined;
  /** How many there are, where each has a size of its own. */
  readonly count: Formula | undefined;
  /** Offset of a block in its volume, where they do not lie one behind the other. */
  readonly at: Formula | undefined;
  /** The number of the block that follows one, where they are chained. */
  readonly next: Formula | undefined;
}

export interface FoldersRule {
  readonly line: number;
  readonly each: Binding;
  readonly path: Formula | undefined;
  readonly name: Formula | undefined;
  /** Index of the folder above, in tables; trees tell it by nesting. */
  readonly parent: Formula | undefined;
  /** Whether what lies at the top has a row of its own, where the recipe says so. */
  readonly top: 'row' | 'none' | undefined;
}

/** What the row of an entry tells of it as a sound. */
export interface SoundRule {
  readonly line: number;
  readonly codec: Formula;
  readonly rate: Formula;
  readonly channels: Formula | undefined;
  readonly block: Formula | undefined;
  readonly loop: Formula | undefined;
  readonly loopStart: Formula | undefined;
  readonly loopEnd: Formula | undefined;
  /** Samples of each channel that the game takes at most. */
  readonly most: Formula | undefined;
}

/** What the row of an entry tells of it as a text. */
export interface FilmRule {
  readonly line: number;
  /** Of a packet. */
  readonly stream: Formula;
  readonly time: Formula;
  readonly stands: Formula | undefined;
  readonly streams: {
    readonly each: Binding;
    readonly is: Formula;
    readonly codec: Formula;
    readonly locale: Formula | undefined;
    readonly rate: Formula | undefined;
    readonly channels: Formula | undefined;
    readonly block: Formula | undefined;
    readonly width: Formula | undefined;
    readonly height: Formula | undefined;
    readonly folder: Formula;
    readonly ending: Formula;
  };
  readonly digits: number;
}

export interface WordsRule {
  readonly line: number;
  readonly locale: Formula;
  /** The name of the entry without it. */
  readonly key: Formula | undefined;
  readonly most: Formula | undefined;
  readonly text: TextCodec;
}

/** Entries that are the languages a game offers. */
export interface LanguagesRule {
  readonly code: Formula;
}

/** An entry whose content follows from the others: for each of them a text or bytes, one behind the other. */
export interface MadeRule {
  readonly path: string;
  readonly line: number;
  readonly each: Formula;
  readonly only: Formula | undefined;
  readonly sort: Formula | undefined;
  readonly first: Formula | undefined;
  /** It asks for sizes of the others, or hashes over their bytes. */
  readonly looksInside: boolean;
}

/** The shape of the plain bytes of some entries. */
export interface ContentRule {
  readonly line: number;
  readonly when: Formula | undefined;
  readonly shape: Shape;
}

export interface EntriesRule {
  readonly line: number;
  readonly each: Binding;
  readonly beside: readonly Binding[];
  /** Rows that are entries; others are kept as they are. */
  readonly only: Formula | undefined;
  readonly path: Formula | undefined;
  readonly hash: Formula | undefined;
  /** The hash of a path, with `entry.path` for the path. */
  readonly hashing: Formula | undefined;
  readonly id: Formula | undefined;
  readonly volume: Formula | undefined;
  readonly at: Formula | undefined;
  readonly stored: Formula | undefined;
  readonly size: Formula | undefined;
  readonly time: Formula | undefined;
  readonly deleted: Formula | undefined;
  /** What no two entries share. */
  readonly unique: readonly Formula[];
  /** Entries whose content follows from the others. */
  readonly made: readonly MadeRule[];
  /** The entry that lists the paths of hashed entries, and what ends each of these. */
  readonly names: { readonly path: string; readonly ends: string } | undefined;
  readonly checks: readonly Check[];
  /** The field of the row (or of a shape in it) that holds the entry's bytes. */
  /** What the plain bytes of entries must look like; of several the first whose condition holds. */
  readonly content: readonly ContentRule[];
  readonly data: Formula | undefined;
  readonly wrap: Shape | undefined;
  /** The index of the data field in the wrap. */
  readonly wrapData: number;
  readonly folder: Formula | undefined;
  readonly folders: FoldersRule | undefined;
  readonly blocks: BlocksRule | undefined;
  /** Set when entries are sounds whose format their rows tell. */
  readonly sound: SoundRule | undefined;
  /** Set when entries are texts by key. */
  readonly words: WordsRule | undefined;
  /** Set when entries are the languages a game offers. */
  readonly languages: LanguagesRule | undefined;
  /** Set when entries are packets of a film. */
  readonly film: FilmRule | undefined;
  methodOf(scope: Scope): Method;
  /** Set when the method is nothing but one field of the row. */
  readonly methodField: number | undefined;
  /** The chain of a method, or undefined when the recipe does not know it. Reading goes through it from the first. */
  stepsOf(method: Method): readonly Step[] | undefined;
  /** Methods that leave out the compressions of another and keep its ciphers. */
  rawOf(method: Method): readonly Method[];
  /** All methods that are written out in the recipe. */
  readonly methods: readonly Method[];
  /** True when every entry goes through the same steps, so that no row has to name them. */
  readonly hasOneMethod: boolean;
}

export interface VolumeSet {
  readonly name: string;
  /** File name with `{stem}`, `{name}` and, for numbered volumes, `{n}` or `{n:000}`. */
  readonly pattern: string;
  readonly numbered: boolean;
  /** Every other file of the folder and below it, numbered in the order of their paths. */
  readonly anyFile: boolean;
  /** Number of the first of numbered volumes. */
  readonly first: number;
  /** The most bytes of one volume. */
  readonly limit: number | undefined;
  readonly optional: boolean;
}

export interface Match {
  readonly at: number;
  /** Counted back from the end of the file. */
  readonly fromEnd: boolean;
  readonly bytes: Uint8Array;
  readonly mask: Uint8Array | undefined;
}

/** What a key slot wants: so many bytes, or any number when 0. */
export interface KeySlot {
  readonly kind: string;
  readonly bytes: number;
}

/** Some mips of a picture, one behind the other in a region of bytes. */
export interface PixelsRule {
  /** The region. */
  readonly from: number;
  readonly first: Formula | undefined;
  readonly mips: Formula | undefined;
  readonly align: number;
}

/** Which fields tell what of a picture. */
export interface PictureRule {
  readonly line: number;
  readonly width: Formula;
  readonly height: Formula;
  readonly format: Formula;
  readonly srgb: Formula | undefined;
  readonly mips: Formula | undefined;
  readonly pixels: readonly PixelsRule[];
  /** Small pictures in it that have names and places. */
  readonly rectangles: RectanglesRule | undefined;
}

/** Rows that each tell of a part of a picture, in pixels of its largest mip. */
export interface RectanglesRule {
  readonly line: number;
  readonly each: Binding;
  readonly name: Formula;
  readonly x: Formula;
  readonly y: Formula;
  readonly width: Formula;
  readonly height: Formula;
}

export type NumberKind = (typeof NUMBER_KINDS)[number];
export type VertexNumbers = (typeof VERTEX_NUMBERS)[number];
export type PoseNumbers = (typeof POSE_NUMBERS)[number];

/** Numbers of a vertex or of a pose in the bytes of one. */
export interface AttributeRule<Of extends string> {
  readonly line: number;
  readonly of: Of;
  readonly as: NumberKind;
  readonly at: Formula;
  readonly when: Formula | undefined;
}

/** Bytes in which all things of one kind lie one behind the other. */
export interface PackedRule<Of extends string> {
  /** The region that holds them. */
  readonly from: number;
  /** Endianness of the numbers; `told` where only the file tells. */
  readonly numbers: 'little' | 'big' | 'told';
  readonly stride: Formula;
  readonly layout: readonly AttributeRule<Of>[];
}

export interface MeshRule extends PackedRule<VertexNumbers> {
  readonly line: number;
  readonly unit: Formula | number;
  readonly up: 'y' | 'z';
  readonly materials:
    { readonly each: Binding; readonly name: Formula; readonly textures: Formula | undefined } | undefined;
  readonly joints:
    | {
        readonly each: Binding;
        readonly name: Formula;
        readonly parent: Formula;
        /** x, y and z. */
        readonly at: readonly Formula[];
        /** A quaternion x, y, z, w; none where joints are not turned. */
        readonly turn: readonly Formula[];
      }
    | undefined;
  readonly levels: { readonly each: Binding; readonly from: Formula | undefined; readonly parts: Formula } | undefined;
  /** Formulas of x, y and z. */
  readonly bounds: { readonly low: readonly Formula[]; readonly high: readonly Formula[] } | undefined;
  readonly parts: {
    readonly each: Binding;
    readonly material: Formula | undefined;
    readonly vertices: Formula;
    readonly indices: Formula;
  };
  readonly index: 'u8' | 'u16' | 'u32';
  readonly align: number;
}

export interface ClipRule extends PackedRule<PoseNumbers> {
  readonly line: number;
  readonly mesh: Formula | undefined;
  readonly rate: Formula;
  readonly frames: Formula;
  readonly joints: Formula;
  readonly loops: Formula | undefined;
}

export interface Recipe {
  readonly id: string;
  readonly title: string;
  readonly revision: number;
  readonly text: string;
  readonly presents: 'archive' | 'folder' | 'picture' | 'mesh' | 'clip' | 'records';
  /** Set when it presents a picture. */
  readonly picture: PictureRule | undefined;
  /** Set when it presents a mesh. */
  readonly mesh: MeshRule | undefined;
  /** Tables of records by name, when it presents some. */
  readonly records: ReadonlyMap<string, Binding> | undefined;
  /** Set when it presents a clip. */
  readonly clip: ClipRule | undefined;
  /** A file fits when all tests of one of these lists hold. */
  readonly match: readonly (readonly Match[])[];
  readonly needs: ReadonlyMap<string, string>;
  readonly slots: ReadonlyMap<string, KeySlot>;
  readonly volumes: readonly VolumeSet[];
  /** Steps the whole main volume goes through before anything else. */
  readonly wrapped: readonly Step[];
  readonly shapes: readonly Shape[];
  readonly regions: readonly Region[];
  /** Region indices in the order in which they can be read. */
  readonly readingOrder: readonly number[];
  readonly entries: EntriesRule;
  /** The region that holds the entries' bytes, and its set of volumes; undefined when they lie in their rows. */
  readonly dataRegions: readonly Region[];
  /** The region whose entries are packed together, which is none of those. */
  readonly solid: Region | undefined;
  readonly duplicates: 'keep' | 'share';
  /** The game reads this one file and none beside it: a small archive would not be seen. */
  readonly alone: boolean;
  /** The layouts of a rebuilt archive that the game loads, the preferred one first; a patch is another question. */
  readonly layouts: readonly Exclude<Layout, 'patch'>[];
  /** The archive does not open when anything about it is wrong. */
  readonly strict: boolean;
  /** True when a step is a JavaScript function of the recipe's own. */
  readonly hasOwnSteps: boolean;
  /** Gives `little` or `big`, where only the file tells. */
  readonly endianness: Formula | undefined;
  /** A text that tells which build of the game the file comes from. */
  readonly build: Formula | undefined;
}
