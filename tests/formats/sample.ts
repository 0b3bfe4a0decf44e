import type { Arbitrary } from 'fast-check';

export interface SampleEntry {
  readonly path: string;
  readonly bytes: Uint8Array;
}

export interface SampleFile {
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** One kind of archive: its recipe, and a writer that knows the format by itself. */
export interface SampleFormat {
  readonly name: string;
  readonly recipe: string;
  readonly keys?: Readonly<Record<string, Uint8Array>>;
  /** Entries can be added and removed. */
  readonly grows?: boolean;
  readonly removes?: boolean;
  /** Entries lie in the order of their rows, so that one that outgrew its spot cannot go behind the others. */
  readonly ordered?: boolean;
  /** The names are not in the archive. */
  readonly hashed?: boolean;
  /** A patch can say that an entry is gone. */
  readonly marks?: boolean;
  /** Entries the format can hold; otherwise any. */
  readonly samples?: readonly SampleEntry[];
  readonly some?: Arbitrary<SampleEntry[]>;
  make(entries: readonly SampleEntry[]): SampleFile[] | Promise<SampleFile[]>;
  /** Bytes as the entry of a path may have them, made of any. */
  fit?(path: string, bytes: Uint8Array): Uint8Array;
  /** What else the files have to be, such as the game's own loader. @throws when they do not */
  judge?(files: readonly SampleFile[], wanted: ReadonlyMap<string, string>): void;
}
