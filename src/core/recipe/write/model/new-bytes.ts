import type { ByteSource } from '../../../bytes';
import type { BlockFacts, Fields, Scope, Value } from '../../formula/value';
import type { Method } from '../../model';

/** Stored bytes of an entry without the shape around them, and where its blocks lie in them. */
export interface Sealed {
  readonly packed: ByteSource;
  readonly blocks: readonly BlockFacts[] | undefined;
}

/** Makes the stored bytes for what formulas see of an entry: where it lies, which number it has. */
export type Seal = (scope: Scope) => Promise<Sealed>;

/** An entry whose stored bytes are not those that were found. */
export interface NewBytes {
  /** Index in the archive it replaces, or undefined for an added entry. */
  readonly base: number | undefined;
  readonly path: string;
  readonly method: Method;
  /** The new plain bytes; undefined for a marker, and for an entry that is only packed for another place. */
  readonly plain: ByteSource | undefined;
  readonly plainSize: number;
  /** The stored bytes, wrap included, for where the entry lies now. */
  stored: ByteSource;
  hashes: ReadonlyMap<string, Value>;
  /** The shape around its bytes, as it was written. */
  wrap: Fields | undefined;
  blocks: readonly BlockFacts[] | undefined;
  readonly time: number | undefined;
  readonly deleted: boolean;
  /** Its plain bytes are as they were: only what follows its place is made again. */
  readonly onlyMoved: boolean;
  /** What fields without a formula were given in its new row. */
  readonly made: Map<string, Value>;
  /** Set when the stored bytes follow from where the entry lies. */
  readonly seal: Seal | undefined;
}
