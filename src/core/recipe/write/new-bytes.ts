import type { ByteSource } from '../../bytes';
import type { BlockFacts, EntryFacts, Fields, Value } from '../formula/value';
import type { Method } from '../model';

/** An entry whose bytes are new. */
export interface NewBytes {
  /** Index in the archive it replaces, or undefined for an added entry. */
  readonly base: number | undefined;
  readonly path: string;
  readonly method: Method;
  /** The plain bytes; undefined for a marker. */
  readonly plain: ByteSource | undefined;
  readonly plainSize: number;
  /** The stored bytes, wrap included, wherever the entry will lie. */
  readonly stored: ByteSource;
  readonly hashes: ReadonlyMap<string, Value>;
  /** The shape around its bytes, as it was written. */
  readonly wrap: Fields | undefined;
  readonly blocks: readonly BlockFacts[] | undefined;
  readonly time: number | undefined;
  readonly deleted: boolean;
  /** What fields without a formula were given in its new row. */
  readonly made: Map<string, Value>;
  /** Set when the stored bytes follow the entry's place: makes them for it. They are always of the same length. */
  readonly placed?: (facts: EntryFacts) => ByteSource;
}
