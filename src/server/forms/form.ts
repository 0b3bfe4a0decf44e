/** What a form is read from, and what it offers to the services: they ask the registry, and name no form themselves. */
import type { Note } from '../../core/notes';
import type { Detail } from '../../core/compare';
import type { Kind, RuledEntry } from '../../core/game';
import type { FitOptions, FormFacts, Glance } from '../shapes';
import type { Outgoing, OutPlan } from './take-out';

/** An entry, a change, or what a change was made of. */
export interface Subject {
  readonly gameId: number;
  /** In the game. */
  readonly path: string;
  /** By its recipe, its first bytes and its name. */
  readonly kind: Kind;
  /** What its archive says all its entries are. */
  readonly declared: Kind | undefined;
  readonly mime: string;
  /** As many of its first bytes as signatures take. */
  readonly head: Uint8Array;
  /** Bytes. */
  readonly size: number;
  /** The entry it is or is for; undefined for one that the game does not have. */
  readonly entry: { readonly archive: number; readonly n: number } | undefined;
  /** Its bytes are those of `entry`, and can be read as a stream. */
  readonly isEntry: boolean;
  /** A loop that a change gives its entry, in samples. */
  readonly loop?: readonly [first: number, last: number] | undefined;
  /** @throws FaultError `limit-reached` for more than is held in memory, and what unpacking says */
  bytes(): Promise<Uint8Array>;
  /** The bytes of another entry, as they are next to this one; undefined when there is none. */
  companion(path: string): Promise<Uint8Array | undefined>;
}

/** What there is to know of a subject by its form. */
export interface FormRead {
  /** Null when the form adds nothing to the kind. */
  readonly facts: FormFacts | null;
  /** What the game expects in its place, in sentences. */
  readonly expects: readonly string[];
  /** Why it cannot be shown as what it is. */
  readonly trouble?: string;
  /** By which two of them are compared. */
  readonly detail?: Omit<Detail, 'name' | 'size'>;
}

/** A file that is to take the place of an entry. */
export interface DroppedFile {
  readonly bytes: Uint8Array;
  readonly fileName: string;
  readonly fitOptions: FitOptions;
  readonly signal: AbortSignal;
  /** The entry as it is changed now; undefined while it is not. */
  changed(): Promise<Subject | undefined>;
}

export interface Fitted {
  /** What takes the place of the original, and of the entries that hold other parts of it. */
  readonly files: readonly { readonly path: string; readonly bytes: Uint8Array }[];
  /** What was done to the file; none when it went in unchanged. */
  readonly notes: readonly Note[];
  /** A loop of its own, in samples. */
  readonly loop?: readonly [first: number, last: number] | undefined;
}

export interface FormFile {
  readonly bytes: Uint8Array;
  readonly mime: string;
  /** With the ending of its format. */
  readonly path: string;
}

/** Pixels of a thumbnail at most. */
export interface Frame {
  readonly width: number;
  readonly height: number;
}

export interface ServerForm {
  readonly kind: Kind;
  is(subject: Subject): boolean;
  /** @throws FaultError or FormatError when it cannot be read */
  read(subject: Subject): Promise<FormRead>;
  /** What its card says and shows of it. */
  glance(subject: Subject): Promise<Glance>;
  /** The glance takes no more than the first bytes, or is kept by the form itself. */
  readonly isGlanceCheap?: true;
  /** A small picture of it. @returns WebP */
  thumbnail?(subject: Subject, frame: Frame): Promise<Uint8Array>;
  /** Its thumbnail takes milliseconds, and no other program. */
  readonly isThumbnailQuick?: true;
  /**
   * A dropped file as the game keeps the original. Films are made to fit as files, by their own runs.
   *
   * @throws FaultError `wrong-kind` when it cannot be made to fit
   */
  fit?(original: Subject, dropped: DroppedFile): Promise<Fitted>;
  /** What becomes of its entries in an order; undefined where they all go out as they are. */
  planOut?(outgoing: Outgoing): Promise<OutPlan | undefined>;
  /** In an open format, by its ending; undefined for a format that the form is not written in. */
  asFile?(subject: Subject, format: string, signal: AbortSignal): Promise<FormFile | undefined>;
  /** A file in a format that any entry of the form can be made from; undefined when it is one already. */
  exchange?(subject: Subject, signal: AbortSignal): Promise<FormFile | undefined>;
  /** What rules of a profile ask of it. */
  measure?(subject: Subject): Promise<Omit<RuledEntry, 'path' | 'size'>>;
}
