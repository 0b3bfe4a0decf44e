import type { ByteSource } from '../../../bytes';
import type { Value } from '../../formula/value';
import type { Layout } from '../../model';
import type { FieldPlace } from '../../read/file-values';

/** What is to be different in a rebuilt archive. */
export interface Edits {
  /** New plain bytes by entry. */
  readonly replace: ReadonlyMap<number, ByteSource>;
  readonly add: readonly { readonly path: string; readonly bytes: ByteSource }[];
  readonly remove: ReadonlySet<number>;
  /** Paths that the archive shall say are deleted, of entries that are not in it but in those it covers. */
  readonly mark?: readonly string[];
  /** New bytes of regions that hold `bytes`, by their index. */
  readonly regions?: ReadonlyMap<number, Uint8Array>;
  /** New values of fields that were found and follow no formula. */
  readonly values?: readonly FieldEdit[];
  /** Time of new and changed entries, in milliseconds since 1970; what was found is kept without it. */
  readonly time?: number;
}

/** Another value for one field. */
export interface FieldEdit {
  readonly place: FieldPlace;
  readonly value: Value;
}

export const NO_EDITS: Edits = { replace: new Map(), add: [], remove: new Set() };

/**
 * How a rebuilt archive is laid out.
 * - `keep`: in the order that was found; a changed entry takes its old spot when it fits, and what follows moves only
 *   as far as it must.
 * - `append`: like keep, but an entry that outgrew its spot goes behind the others.
 * - `afresh`: as the recipe orders its regions, without gaps.
 * - `patch`: a small archive of its own that holds only what is new or changed; removed entries become deletion
 *   markers where the format has them.
 */
export const LAYOUTS: readonly Layout[] = ['keep', 'append', 'afresh', 'patch'];
