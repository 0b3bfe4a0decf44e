/** Where the files of a run go: below a folder, or into one ZIP. */
import type { OutgoingEntry } from '../shapes';

export interface Destination {
  /** As the run's result gives it: the folder, when it is one. */
  readonly folder: string | null;
  /** Whether a file that a run before wrote is there still, of the same content. */
  isKnown(path: string, mark: string): Promise<boolean>;
  /** Whether the file holds the entry already, from an earlier try of this run. */
  isThere(path: string, entry: OutgoingEntry, mark: string): Promise<boolean>;
  /**
   * Writes one file, whole or not at all.
   *
   * @param mark identifies its content later, for {@link isKnown}; undefined for what is always written again
   * @returns its bytes; `kept` where a file is there that no run wrote, or that was changed since, and stays
   */
  write(path: string, chunks: AsyncIterable<Uint8Array>, mark?: string): Promise<number | 'kept'>;
  /** Nothing comes any more. @param failures of what is missing, in sentences */
  close(failures: readonly string[]): Promise<void>;
  /** The run ends early: what is whole stays, what is not goes. */
  abandon(): Promise<void>;
}

/** Bytes that are in memory. */
export async function* inOne(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}
