/** What the entries of an archive are read from. */
import type { FaultError } from '../../faults';
import type { Fields, FileFacts, Scope } from '../formula/value';
import type { Recipe } from '../model';
import type { FolderTable } from './folder-table';
import type { PathHashes } from './path-hashes';
import type { BoundRows } from './rows';
import type { OpenVolume } from './volumes';

/** Instances of the shape around each entry's bytes, where the recipe needs them to know where these are. */
export interface Wraps {
  /** Why the wrap of an entry cannot be read. */
  fault(entry: number): FaultError | undefined;
  fields(entry: number): Fields | undefined;
  /** Stored bytes the wrap turned out to have. */
  stored(entry: number): number;
  /** Offset behind the start of the wrap of what ends with it and has no length of its own. */
  restAt(entry: number): number | undefined;
}

export interface EntrySetting {
  readonly recipe: Recipe;
  readonly facts: FileFacts;
  readonly volumes: readonly OpenVolume[];
  readonly bound: BoundRows;
  readonly beside: readonly BoundRows[];
  readonly folders: FolderTable | undefined;
  readonly hashes: PathHashes | undefined;
  /** Bytes of the unlocked region that holds the entries packed together; undefined elsewhere. */
  readonly spaceSize: number | undefined;
  /** Starts of regions by volume: what an entry's bytes cannot run into. */
  regionStarts(volume: number): readonly number[];
  /** Reads the wraps of all entries, given where they start. */
  readonly wraps:
    | ((table: {
        count: number;
        at(i: number): number;
        volume(i: number): number;
        room(i: number): number;
        scope(i: number): Scope;
      }) => Promise<Wraps>)
    | undefined;
}
