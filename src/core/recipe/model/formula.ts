/** Formulas, and what they depend on. */
import type { Fields, Scope, Value } from '../formula/value';
import type { Shape } from './shape';

/** What a formula depends on; decides what must be computed again when something changes. */
export interface Uses {
  /** Offsets, lengths, counts: known only from the finished layout. */
  layout: boolean;
  /** The same without the lengths of fields, which stay wherever these lie. */
  place: boolean;
  /** Fields of other shapes that are named, as far as the recipe names them. */
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

/** Bytes of an entry: the plain ones, the stored ones, or those after a number of steps of its chain. */
export type ContentPart = 'data' | 'packed' | `behind-${number}`;

/** A hash over bytes of an entry. */
export interface ContentHash {
  readonly which: ContentPart;
  /** What formulas ask for it by. */
  readonly name: string;
  /** The key of its hasher, whose parameters may be in the file. */
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
