/** Volumes, regions, and the steps their bytes go through. */
import type { Codec } from '../../codecs';
import type { Formula } from './formula';
import type { FieldKind } from './kind';

/** How a rebuilt archive is laid out; see `LAYOUTS`. */
export type Layout = 'keep' | 'append' | 'afresh' | 'patch';

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

/** Where a region is looked for when its place is found by its content. */
export interface Search {
  readonly bytes: Uint8Array;
  /** Offset the search starts from; the end of the file when it goes backwards. */
  readonly from: Formula | undefined;
  readonly backwards: boolean;
  /** How many bytes the search may cross, those it looks for among them. */
  readonly within: number;
}

export interface Region {
  readonly name: string;
  readonly index: number;
  readonly line: number;
  /** Which set of volumes it lies in. */
  readonly volume: string;
  /** It is in every volume of a numbered set. */
  readonly eachVolume: boolean;
  /** The number of the volume it is in, where one is in each. */
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
  /** It is also there when the search finds it although its `when` does not hold, or there is none. */
  readonly optional: boolean;
  readonly through: readonly Step[];
  /** What lies in it: one shape, the entries, or opaque bytes. */
  readonly holds: FieldKind | 'entries' | 'bytes';
  readonly align: number;
  readonly fill: number;
  /** Whether entries in it must lie in the order of their rows; undefined where the recipe does not say. */
  readonly order: 'rows' | 'any' | undefined;
  /** Whether bytes may lie unused between its entries; undefined where the recipe does not say. */
  readonly gaps: 'none' | 'kept' | undefined;
  /** Behind its last entry is fill up to a multiple of this. */
  readonly tail: number | undefined;
  readonly sort: readonly Formula[];
  /** Its rows are slots of a hash table. */
  readonly slots: SlotRule | undefined;
}

/** A table in which each row is where a search for it leads. */
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

/** Bytes that a file of a format has. */
export interface Match {
  readonly at: number;
  /** Counted back from the end of the file. */
  readonly fromEnd: boolean;
  /** The bytes may begin anywhere within this many bytes from there on. */
  readonly within: number;
  readonly bytes: Uint8Array;
  readonly mask: Uint8Array | undefined;
}

/** The length of the key of a slot in bytes; 0 for any length. */
export interface KeySlot {
  readonly kind: string;
  readonly bytes: number;
}
