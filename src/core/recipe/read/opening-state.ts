/** What is known of an archive while it is being opened: it fills up as regions are read. */
import type { ByteSource } from '../../bytes';
import type { Recipe } from '../model';
import type { EntryTable } from './entry-table';
import type { FolderTable } from './folder-table';
import type { LateHashes } from './late-hashes';
import type { Keys, OpenedArchive } from './opened-archive';
import type { FoundRegion } from './read-region';
import type { BoundRows } from './rows';
import type { OpenVolume } from './volumes';

export interface OpeningState {
  /** With regions for the volumes there are, as soon as these are known. */
  recipe: Recipe;
  readonly files: readonly ByteSource[];
  readonly keys: Keys;
  readonly found: Map<number, FoundRegion>;
  readonly late: LateHashes;
  volumes: readonly OpenVolume[];
  entries?: EntryTable;
  folders?: FolderTable;
  blocks?: BoundRows;
  opened?: OpenedArchive;
}
