/** What an open archive is. */
import type { ByteSource, Scratch } from '../../bytes';
import type { FileFacts } from '../formula/value';
import type { Limits } from '../limits';
import type { Recipe } from '../model';
import type { EntryTable } from './entry-table';
import type { FolderTable } from './folder-table';
import type { LateHashes } from './late-hashes';
import type { PathHashes } from './path-hashes';
import type { FoundRegion } from './read-region';
import type { BoundRows } from './rows';
import type { OpenVolume } from './volumes';

export type Keys = ReadonlyMap<string, Uint8Array>;

export interface OpenOptions {
  readonly keys?: Keys;
  readonly limits?: Partial<Limits>;
  readonly signal?: AbortSignal;
  /** Paths that may give hashed entries their names. */
  readonly names?: Iterable<string>;
  /** Room for a file that is packed as a whole. Without it such a file is unpacked into memory. */
  readonly scratch?: Scratch;
}

/** An archive whose tables have been read. It holds these, never its entries' bytes. */
export interface OpenedArchive {
  readonly recipe: Recipe;
  /** The main volume, unpacked when the whole file is packed. */
  readonly source: ByteSource;
  /** The main file as it was given. */
  readonly outer: ByteSource;
  readonly volumes: readonly OpenVolume[];
  readonly keys: Keys;
  readonly limits: Limits;
  readonly regions: ReadonlyMap<number, FoundRegion>;
  readonly entries: EntryTable;
  readonly folders: FolderTable | undefined;
  readonly blockRows: BoundRows | undefined;
  readonly hashes: PathHashes | undefined;
  /** Where entries lie in an unlocked region instead of a volume. */
  readonly dataSpace: ByteSource | undefined;
  readonly facts: FileFacts;
  readonly late: LateHashes;
}
