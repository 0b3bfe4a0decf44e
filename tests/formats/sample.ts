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
  make(entries: readonly SampleEntry[]): SampleFile[];
}
