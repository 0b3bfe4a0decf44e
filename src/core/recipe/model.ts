/** A compiled recipe: plain data and closures, made once from the checked text. */
import type { ByteWriter, Cursor } from '../bytes';
import type { Codec, KeyKind } from '../codecs';
import type { Limits } from './limits';
import type { Column, Table } from './table';
import type { Scope, Value } from './value';

/** What a formula depends on; decides what must be computed anew when something changes. */
export interface Uses {
  /** Offsets and lengths of the finished file. */
  layout: boolean;
  /** Fields of other shapes, whose values may themselves follow the layout. */
  elsewhere: boolean;
  /** Bare fields of the same shape, by index. */
  readonly siblings: Set<number>;
  /** Hashes over the bytes of the entry. */
  readonly content: { readonly which: 'data' | 'packed'; readonly hasher: string }[];
  /** Regions whose bytes are hashed, by index. */
  readonly regionBytes: Set<number>;
  /** Regions whose fields are read, by index. */
  readonly regions: Set<number>;
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

export interface ReadContext {
  readonly scope: Scope;
  readonly limits: Limits;
  /** Bytes of the region beyond the cursor's window, when it was fetched in part. */
  readonly beyond: number;
  depth: number;
  /** Bytes from the start of the region that are known to be needed; a window is fetched again at least so large. */
  needed: number;
  /** Told of every field as it is read: the row's number in its table, and offsets from `start` up to `end`. */
  readonly trace?: (field: Field, shape: Shape, row: number, start: number, end: number) => void;
}

export interface FieldKind {
  /** As written in the recipe. */
  readonly text: string;
  /** Bytes, when every instance has the same length. */
  readonly fixedSize: number | undefined;
  /** The fewest bytes an instance can have. */
  readonly minSize: number;
  readonly type: FieldType;
  makeColumn(): Column;
  /** Reads one instance onto the end of `column`. */
  read(cursor: Cursor, column: Column, context: ReadContext): void;
  /** @throws FormatError `layout-impossible` when the value does not fit */
  write(writer: ByteWriter, value: Value, scope: Scope): void;
}

export type FieldType =
  | { readonly kind: 'value'; readonly of: 'number' | 'text' | 'bytes' }
  | { readonly kind: 'shape'; readonly shape: Shape }
  | { readonly kind: 'list'; readonly of: FieldType };

/** What `must` demands. */
export interface Demand {
  readonly text: string;
  holds(value: Value): boolean;
  /** The value to write when the field has no other. */
  readonly only: Value;
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
}

export interface Shape {
  readonly name: string;
  readonly line: number;
  readonly fields: readonly Field[];
  readonly fixedSize: number | undefined;
  readonly minSize: number;
}

/** One step of a `through` chain with its parameters. */
export interface Step {
  readonly text: string;
  readonly line: number;
  readonly codec: Codec;
  readonly params: Readonly<Record<string, Formula>>;
  /** Key slots among the parameters. */
  readonly slots: readonly string[];
}

export interface Region {
  readonly name: string;
  readonly index: number;
  readonly line: number;
  readonly at: Formula | undefined;
  /** Set when `at` is a constant: the region never moves. */
  readonly fixedAt: number | undefined;
  readonly length: Formula | undefined;
  /** Plain length behind the `through` chain, where the format states it. */
  readonly plain: Formula | undefined;
  readonly through: readonly Step[];
  /** What lies in it: one shape, the entries, or bytes nobody looks into. */
  readonly holds: FieldKind | 'entries' | 'bytes';
  readonly align: number;
  readonly fill: number;
}

/** How an entry was packed: the value of the method field, or the set of steps whose `when` held, as a bit mask. */
export type Method = Value;

export interface EntriesRule {
  readonly line: number;
  /** The name the row is bound to. */
  readonly binding: string;
  /** Where the rows are: a region and the fields that lead to the list. */
  readonly region: number;
  readonly fieldPath: readonly number[];
  readonly shape: Shape;
  readonly path: Formula;
  readonly at: Formula;
  readonly stored: Formula;
  readonly size: Formula | undefined;
  methodOf(scope: Scope): Method;
  /** Set when the method is nothing but one field of the row. */
  readonly methodField: number | undefined;
  /** The chain of a method, or undefined when the recipe does not know it. Reading goes through it from the first. */
  stepsOf(method: Method): readonly Step[] | undefined;
  /** Methods that store an entry as it is, the preferred first. */
  readonly rawMethods: readonly Method[];
  /** All methods that are written out in the recipe. */
  readonly methods: readonly Method[];
}

export interface Recipe {
  readonly id: string;
  readonly title: string;
  readonly revision: number;
  readonly text: string;
  readonly presents: 'archive';
  readonly match: readonly { readonly at: number; readonly bytes: Uint8Array }[];
  readonly needs: ReadonlyMap<string, KeyKind>;
  readonly shapes: readonly Shape[];
  readonly regions: readonly Region[];
  /** Region indices in the order in which they can be read. */
  readonly readingOrder: readonly number[];
  readonly entries: EntriesRule;
  /** The region that holds the entries' bytes. */
  readonly dataRegion: Region;
}

/** One row of a table as {@link Fields}; move `row` to look at another. */
export interface RowCursor {
  readonly table: Table;
  row: number;
  get(index: number): Value;
}
