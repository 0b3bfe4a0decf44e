/**
 * Faults are data first, words second: whoever throws states the facts, and `words.ts` makes one sentence of them for
 * the page, the log and the command line.
 */

export type FaultCode =
  // the file is at fault
  | 'cut-short' // fewer bytes than the layout needs
  | 'must-differs' // a field is not what it has to be
  | 'formula-differs' // a field disagrees with its formula
  | 'codec-failed' // a step of a `through` chain refused its input
  | 'size-differs' // unpacked to another length than the archive says
  | 'checksum-differs'
  | 'outside-file' // a pointer leads out of the file
  | 'bad-text'
  | 'volume-missing' // a file that belongs to the archive is not there
  | 'file-changed' // the file changed or went away while it was read
  | 'no-recipe' // nothing recognises the file
  | 'layout-impossible' // a new layout cannot satisfy the format
  | 'not-reproduced' // a rebuild differs from what it should be
  | 'check-failed' // what would be written does not read back as meant
  // the recipe is at fault
  | 'recipe-invalid'
  | 'recipe-circular'
  // the caller is at fault
  | 'key-missing'
  | 'key-wrong'
  | 'no-such-entry'
  | 'wrong-kind'
  | 'cannot-add'
  | 'not-allowed'
  | 'not-found'
  | 'in-use'
  | 'disk-full'
  | 'read-only'
  | 'invalid-request'
  | 'conflict'
  // a limit was reached
  | 'limit-reached'
  | 'stopped';

/** The facts of one fault. Offsets count bytes from 0 in `file` (or in the unlocked region when `within` names it). */
export interface Fault {
  readonly code: FaultCode;
  /** What happened, when the code alone does not say it. */
  readonly what?: string;
  readonly file?: string;
  readonly recipe?: string;
  /** 1-based line in the recipe's text. */
  readonly line?: number;
  readonly region?: string;
  readonly field?: string;
  readonly entry?: string;
  readonly offset?: number;
  /** Set when `offset` counts inside the plain bytes of a region or entry, not inside the file. */
  readonly within?: string;
  readonly expected?: string;
  readonly found?: string;
  /** The name of the limit that was reached. */
  readonly limit?: string;
  /** A likely cause or what to try next. */
  readonly hint?: string;
}

/** The base of every error that carries a {@link Fault}. */
export class FaultError extends Error {
  readonly fault: Fault;
  constructor(fault: Fault, options?: { cause?: unknown }) {
    super(fault.what ?? fault.code, options);
    this.name = new.target.name;
    this.fault = fault;
  }
  /** The same fault with more facts; facts that are already known stay. */
  with(more: Partial<Fault>): this {
    const merged = { ...more, ...this.fault };
    const Class = this.constructor as new (fault: Fault, options?: { cause?: unknown }) => this;
    const copy = new Class(merged, { cause: this.cause });
    copy.stack = this.stack;
    return copy;
  }
}

/** The file, or the recipe that describes it, is at fault. */
export class FormatError extends FaultError {
  /** What a failed `through` step had produced; lets a key test compare it with `must`. */
  partial?: Uint8Array;
}

/** A named limit was reached. */
export class LimitError extends FaultError {}

/** The work was stopped on request. */
export class CancelledError extends FaultError {
  constructor() {
    super({ code: 'stopped', what: 'stopped on request' });
  }
}

/** True for errors that carry a fault, also when they come from another bundle of this module. */
export function isFaultError(error: unknown): error is FaultError {
  return error instanceof Error && typeof (error as { fault?: { code?: unknown } }).fault?.code === 'string';
}

/** The fault of any error; system errors become the fault a person can act on. */
export function faultOf(error: unknown, file?: string): Fault {
  if (isFaultError(error)) return file === undefined ? error.fault : { file, ...error.fault };
  const system = error as { code?: string; path?: string; message?: string };
  const where = file ?? system.path;
  const at = where === undefined ? {} : { file: where };
  switch (system.code) {
    case 'ENOENT':
      return {
        code: 'not-found',
        what: 'the file is not there',
        hint: 'Was it moved or deleted? Scan the folder again.',
        ...at,
      };
    case 'ENOSPC':
      return {
        code: 'disk-full',
        what: 'the disk is full',
        hint: 'Free some space or choose another folder; nothing half-written was kept.',
        ...at,
      };
    case 'EACCES':
    case 'EPERM':
      return {
        code: 'not-allowed',
        what: 'the system refuses access',
        hint: 'Check the rights of the file and its folder.',
        ...at,
      };
    case 'EROFS':
      return {
        code: 'read-only',
        what: 'the folder is read-only',
        hint: 'Choose a folder that can be written to.',
        ...at,
      };
    case 'EBUSY':
    case 'ETXTBSY':
      return { code: 'in-use', what: 'the file is in use', hint: 'Close the game and try again.', ...at };
    default:
      return { code: 'invalid-request', what: system.message ?? String(error), ...at };
  }
}

/** Throws {@link CancelledError} when the signal has been raised. */
export function throwIfStopped(signal: AbortSignal | undefined): void {
  if (signal?.aborted) throw new CancelledError();
}
