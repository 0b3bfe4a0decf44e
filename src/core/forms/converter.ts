/** What a form offers to those who take entries out as files of open formats, without a database. */
import type { Archive, Recipe } from '../recipe';

/** An entry of an open archive. */
export interface EntryToConvert {
  readonly archive: Archive;
  readonly n: number;
  readonly path: string;
  /** Its first bytes: as many as signatures take. */
  readonly head: Uint8Array;
  bytes(): Promise<Uint8Array>;
  /** Recipes of forms, such as of pictures. */
  readonly recipes: readonly Recipe[];
  /** The bytes of an entry next to it, by its whole path; undefined when there is none. */
  beside(path: string): Promise<Uint8Array | undefined>;
}

export interface ConvertedEntry {
  readonly bytes: Uint8Array;
  /** What is to be said of it, in sentences. */
  readonly notes: readonly string[];
}

export interface FormConverter<Format extends string = string> {
  /** Formats it writes, by their endings. */
  readonly formats: readonly Format[];
  /**
   * @returns undefined when the entry is of another form
   * @throws FaultError or FormatError when it is of this form and cannot be read
   */
  convert(entry: EntryToConvert, as: Format): Promise<ConvertedEntry | undefined>;
}
