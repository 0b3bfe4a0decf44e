/** What a plan is meant to hold, and the fault of one that would not. */
import type { ByteSource, Scratch } from '../../../bytes';
import { FormatError, type Fault } from '../../../faults';
import type { Limits } from '../../limits';
import type { Layout, Recipe } from '../../model';
import type { Keys, OpenedArchive } from '../../read/opened-archive';
import type { FieldEdit } from '../edits/edits';

/** One entry that a plan is meant to hold. */
export interface MeantEntry {
  readonly path: string;
  /** Its index in the archive that is rebuilt; undefined for an added entry. */
  readonly base: number | undefined;
  /** Its new plain bytes; undefined when they stay. */
  readonly plain: ByteSource | undefined;
  readonly deleted: boolean;
}

/** All entries in the order in which their rows will be read; made one by one, for there may be a million. */
export interface MeantEntries {
  readonly count: number;
  at(index: number): MeantEntry;
}

export interface CheckSetting {
  readonly recipe: Recipe;
  readonly keys: Keys;
  readonly limits: Limits;
  readonly scratch: Scratch;
  readonly signal: AbortSignal | undefined;
  /** The archive that is rebuilt; undefined for a new one. */
  readonly archive: OpenedArchive | undefined;
  readonly meant: MeantEntries;
  /** New bytes of regions, by their index in the recipe. */
  readonly regions: ReadonlyMap<number, Uint8Array>;
  /** New values of fields that were found. */
  readonly values: readonly FieldEdit[];
  readonly layout: Layout;
}

export function failed(facts: Omit<Fault, 'code'>): FormatError {
  return new FormatError({ code: 'check-failed', ...facts });
}
