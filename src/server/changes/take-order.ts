/** A file that is to become a change. */
import type { Note } from '../../core/notes';
import type { FitOptions } from '../shapes';
import { keepBytes } from '../storage';

/** The bytes of a file, or those of a blob that is kept: films are larger than memory. */
export type Given = { readonly bytes: Uint8Array } | { readonly kept: string };

export type TakeOrder = Given & {
  /** The entry it is for. */
  readonly path: string;
  readonly fileName: string;
  /** How the file found its entry. */
  readonly matchedBy?: Note | null;
  readonly dropId?: number;
  readonly fitOptions?: FitOptions;
  readonly signal?: AbortSignal;
  /** Told how far a conversion is that takes its time. */
  readonly progress?: (done: number, total: number, unit: 'milliseconds') => void;
};

/** The largest file that is taken as a change, films aside. */
export const MAX_CHANGE_BYTES = 64 << 20;

/** The blob of what is given. */
export const keptOf = async (given: Given): Promise<string> =>
  'kept' in given ? given.kept : (await keepBytes(given.bytes)).sha256;
