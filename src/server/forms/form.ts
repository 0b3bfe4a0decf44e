/** What a form offers to the services: they ask the registry, and name no form themselves. */
import type { Pixels } from '../../core/forms/picture';
import type { Kind } from '../../core/game';
import type { FormFacts } from '../shapes';

/** Bytes that a form is read from, wherever they come from: an entry, a change, or what a change was made of. */
export interface FormBytes {
  readonly gameId: number;
  /** In the game. */
  readonly path: string;
  readonly bytes: Uint8Array;
  /** The bytes of another entry, by its whole path; undefined when there is none. */
  beside(path: string): Promise<Uint8Array | undefined>;
}

export interface ServerForm {
  readonly kind: Kind;
  /** Whether bytes are of the form, by their first 512 and their path. */
  is(head: Uint8Array, path: string): Promise<boolean>;
  /**
   * What it is once read, and what the game expects in its place, in sentences.
   *
   * @throws FaultError or FormatError when it cannot be read
   */
  read(of: FormBytes): Promise<{ readonly facts: FormFacts; readonly expects: readonly string[] }>;
  /** What its card says of it, in a few words. */
  glance(of: FormBytes): Promise<string>;
  /** A drawing of it for a thumbnail, and the colour of the paper that it is seen on. */
  draw(of: FormBytes): Promise<{ readonly pixels: Pixels; readonly paper: string }>;
  /**
   * A dropped file as the game keeps the original.
   *
   * @throws FaultError `wrong-kind` when it cannot be made to fit
   */
  fit(
    original: FormBytes,
    dropped: { readonly bytes: Uint8Array; readonly fileName: string },
  ): Promise<{ readonly bytes: Uint8Array; readonly done: readonly string[] }>;
}
