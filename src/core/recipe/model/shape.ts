/** Shapes and their fields. */
import type { Value } from '../formula/value';
import type { Formula } from './formula';
import type { FieldKind } from './kind';

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
  /** The value in a patch. */
  readonly patch: Formula | undefined;
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
  /** The value once the bytes of its entry are others; until then it stays as found. */
  readonly changed: Formula | undefined;
  /** The value in a patch; within it the name of the field stands for what the archive has. */
  readonly patch: Formula | undefined;
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
  /** A value without a formula: what was found is what is written. */
  readonly isPlain: boolean;
}

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
