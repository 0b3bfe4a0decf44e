/** What a proof says, and what it is asked for. */
import type { Scratch } from '../../bytes';
import type { Fault } from '../../faults';
import type { Layout } from '../model';

/** What is done to an entry. */
export const EDIT_KINDS = [
  ...(['longer', 'shorter', 'empty', 'filled'] as const),
  ...(['added', 'added-in-folder', 'removed', 'all'] as const),
] as const;
export type EditKind = (typeof EDIT_KINDS)[number];

export const EDIT_WORDS: Readonly<Record<EditKind, string>> = {
  longer: 'make an entry longer',
  shorter: 'make an entry shorter',
  empty: 'make an entry empty',
  filled: 'fill an empty entry',
  added: 'add an entry beside others',
  'added-in-folder': 'add an entry in a new folder',
  removed: 'remove an entry',
  all: 'do all of these at once',
};

/** One edit in one layout. */
export interface ProvenEdit {
  readonly edit: EditKind;
  readonly layout: Layout;
  /** Why it was refused; undefined when it was done and read back. */
  readonly fault?: Fault;
  /** The format has no way to say it: the recipe is right all the same. */
  readonly forbidden: boolean;
}

export interface EditProof {
  readonly done: number;
  readonly total: number;
  readonly edits: readonly ProvenEdit[];
  /** The first that the recipe should allow and does not; else the first that the format forbids. */
  readonly first?: Fault;
}

export interface Proof {
  /** Bytes of the file that the recipe explains. */
  readonly bytes: { readonly explained: number; readonly total: number; readonly first?: Fault };
  /**
   * Computed fields that agree with their formula, checksums over every entry's bytes among them; and what a strict
   * reader would not take, which agrees with nothing.
   */
  readonly formulas: { readonly agree: number; readonly total: number; readonly first?: Fault };
  /** Rebuilt without changes: identical or not. */
  readonly identical: { readonly same: boolean; readonly first?: Fault };
  /**
   * Rebuilt with entries changed and read again. All entries are changed while they and their plain bytes stay below a
   * limit; in larger archives evenly spread ones are.
   */
  readonly changed: { readonly equal: number; readonly tested: number; readonly total: number; readonly first?: Fault };
  /** What people do with an archive, in each layout the format allows: done and read back, or refused by name. */
  readonly edits: EditProof;
}

export interface ProveOptions {
  readonly scratch: Scratch;
  readonly signal?: AbortSignal | undefined;
  /** Plain bytes of entries that are changed for the fourth number. Default 1 GiB. */
  readonly maxChangedBytes?: number;
  /** Edits only in the first layout: while someone writes a recipe. */
  readonly brief?: boolean;
  /** Entries done of `total`, over both passes. */
  readonly progress?: (done: number, total: number) => void;
}
