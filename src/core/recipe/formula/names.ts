import type { Expression } from '../language/expression';
import type { FieldType, Shape, Uses } from '../model';
import type { Scope, Value } from './value';

/** The names that are around a formula. */
export interface Names {
  /** The shape whose fields can be named bare. */
  readonly shape?: Shape | undefined;
  /** Only fields before this index have been read already; leave out where all are known. */
  readonly before?: number;
  /** The field whose formula this is. */
  readonly field?: number;
  /** The rows that `each` and `beside` bind. */
  readonly rows: readonly { readonly name: string; readonly shape: Shape }[];
  readonly regions: ReadonlyMap<string, { readonly index: number; readonly type: FieldType | undefined }>;
  /** Key slots can be named where a key is worked out. */
  readonly slots: ReadonlySet<string>;
  /** Names of fields that are read where the shape depends on the file. */
  readonly askedNames: Set<string>;
  /** Hashes the recipe brings: the key each is known by, and the parameters that it takes. */
  readonly hashes: ReadonlyMap<string, { readonly key: string; readonly takes: readonly string[] }>;
  /** Names the recipe gives to formulas in `let`. */
  readonly lets: ReadonlyMap<string, Expression>;
  /** Names in `let` whose formulas are being compiled, from the outermost on. */
  readonly letPath?: readonly string[];
  /** All sets of volumes, for `volume(NAME)`: true when numbered. */
  readonly volumeSets?: ReadonlyMap<string, boolean>;
  /** Regions that hold entries as they are, and the volumes they lie in. */
  readonly entryRegions?: ReadonlyMap<number, string> | undefined;
  /** Sets of volumes, nameable where a volume is chosen: true when numbered. */
  readonly volumes?: ReadonlyMap<string, boolean> | undefined;
  readonly entry: boolean;
  readonly block: boolean;
  readonly folder: boolean;
  /** What the first value of a field may ask besides: of the entry or folder that a new instance is made for. */
  readonly carries?: { readonly entry: boolean; readonly folder: boolean } | undefined;
  readonly own?: Shape | undefined;
  /** The fields are around the bytes of an entry. */
  readonly around?: boolean;
  /** The unlocked region the fields lie in; undefined in the file itself. */
  readonly space?: number | undefined;
  /** Regions that have steps. */
  readonly unlocked?: ReadonlySet<number>;
  readonly item?: FieldType | undefined;
  /** What is shared by all parts of one formula. */
  readonly shared?: SharedLets | undefined;
}

/** The `let` names of one formula: each is compiled once, and worked out once, however often it is named. */
export interface SharedLets {
  readonly pieces: Map<string, Piece>;
  /** Set when one of them is named more than once, so that its value is worth remembering. */
  repeated: boolean;
}

/** A compiled part of a formula. */
export interface Piece {
  readonly type: FieldType;
  evaluate(scope: Scope): Value;
  /** The named bits of a field that is only known when the file is read. */
  partsOf?(scope: Scope): ReadonlyMap<string, { readonly shift: number; readonly width: number }> | undefined;
}

export const NUMBER: FieldType = { kind: 'value', of: 'number' };
export const TEXT: FieldType = { kind: 'value', of: 'text' };
export const BYTES: FieldType = { kind: 'value', of: 'bytes' };
export const ANY: FieldType = { kind: 'any' };

export function noUses(): Uses {
  return {
    layout: false,
    place: false,
    fields: [],
    elsewhere: false,
    siblings: new Set(),
    content: [],
    regionBytes: new Set(),
    regions: new Set(),
    entry: new Set(),
    late: false,
    end: false,
    neighbours: [],
  };
}
