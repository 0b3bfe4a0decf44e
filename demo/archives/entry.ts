export interface ArchiveEntry {
  readonly path: string;
  readonly bytes: Uint8Array;
}

/** A file of an archive; those of several volumes have several. */
export interface ArchiveFile {
  readonly name: string;
  readonly bytes: Uint8Array;
}
