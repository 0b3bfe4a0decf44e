/** Kinds of fields: how an instance is read, kept and written. */
import type { ByteWriter, Cursor } from '../../bytes';
import type { PoolValue, Scope, Value } from '../formula/value';
import type { Limits } from '../limits';
import type { Column, Tables } from '../read/table';
import type { Formula } from './formula';
import type { Field, Shape } from './shape';

/** The volume bytes come from, for fields that lie elsewhere in it. */
export interface ReadContext {
  readonly scope: Scope;
  readonly limits: Limits;
  readonly tables: Tables;
  /** Bytes of the region beyond the cursor's window, when it was fetched in part. */
  beyond: number;
  depth: number;
  /** How many `must` have held so far: distinguishes a wrong key from damage. */
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
  /** Skips a number of bytes. @throws FormatError `cut-short` past the end */
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
  /** `rest`: as many bytes as there are, where only the blocks say how many belong to the entry. */
  | { readonly kind: 'data'; readonly rest: boolean }
  /** One of several, chosen by the file. */
  | { readonly kind: 'any' };
