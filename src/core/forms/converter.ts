/** What a form offers to those who take entries out as files of open formats, without a database. */
import type { Note } from '../notes';
import type { Archive, Recipe } from '../recipe';

/** An entry of an open archive, or a loose file. */
export interface EntryToConvert {
  /** The archive that lists it, and which row it is; undefined for a loose file. */
  readonly listed?: { readonly archive: Archive; readonly n: number };
  readonly path: string;
  /** Its first bytes: as many as signatures take. */
  readonly head: Uint8Array;
  bytes(): Promise<Uint8Array>;
  /** Recipes of forms, such as of pictures. */
  readonly recipes: readonly Recipe[];
  /** The bytes of an entry next to it, by its whole path; undefined when there is none. */
  companion(path: string): Promise<Uint8Array | undefined>;
}

export interface ConvertedEntry {
  readonly bytes: Uint8Array;
  readonly notes: readonly Note[];
}

/** A file that is to take the place of an entry. */
export interface FileToFit {
  readonly bytes: Uint8Array;
  readonly fileName: string;
}

export interface FittedEntry {
  /** What takes the place of the entry, and of those that hold other parts of it. */
  readonly files: readonly { readonly path: string; readonly bytes: Uint8Array }[];
  /** What was done to the file. */
  readonly notes: readonly Note[];
}

export interface FormConverter<Format extends string = string> {
  /** Formats it writes, by their endings. */
  readonly formats: readonly Format[];
  /**
   * @returns undefined when the entry is of another form
   * @throws FaultError or FormatError when it is of this form and cannot be read
   */
  convert(entry: EntryToConvert, as: Format): Promise<ConvertedEntry | undefined>;
  /**
   * A file as the entry is kept.
   *
   * @returns undefined when the entry is of another form, or cannot be read as this one
   * @throws FaultError or FormatError when the file cannot be made to fit
   */
  fit(entry: EntryToConvert, file: FileToFit): Promise<FittedEntry | undefined>;
}
