/**
 * Faults are data first, words second: the code that throws states the facts, and `words.ts` makes one sentence of them for
 * the page, the log and the command line.
 */

export const FAULT_CODES = [
  // the file is at fault
  'cut-short', // fewer bytes than the layout needs
  'must-differs', // a field is not what it has to be
  'formula-differs', // a field disagrees with its formula
  'codec-failed', // a step of a `through` chain refused its input
  'size-differs', // unpacked to another length than the archive says
  'checksum-differs',
  'outside-file', // a pointer leads out of the file
  'bad-text',
  'volume-missing', // a file that belongs to the archive is not there
  'file-changed', // the file changed or went away while it was read
  'no-recipe', // nothing recognises the file
  'layout-impossible', // a new layout cannot satisfy the format
  'not-reproduced', // a rebuild differs from what it should be
  'check-failed', // what would be written does not read back as meant
  // the recipe is at fault
  'recipe-invalid',
  'recipe-circular',
  // the caller is at fault
  'key-missing',
  'key-wrong',
  'no-such-entry',
  'wrong-kind',
  'cannot-add',
  'not-allowed',
  'not-found',
  'in-use',
  'missing-program', // a program that the machine could have is not installed
  'disk-full',
  'read-only',
  'invalid-request',
  'conflict',
  'other-language', // texts of one language would take the place of those of another
  // a limit was reached
  'limit-reached',
  'stopped',
  // Zero Latch itself is at fault
  'defect',
] as const;
export type FaultCode = (typeof FAULT_CODES)[number];

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
  const system = error as { code?: unknown; path?: string; message?: string };
  const where = file ?? system.path;
  const at = where === undefined ? {} : { file: where };
  if (error instanceof RangeError) return { ...memoryFault(error), ...at };
  if (typeof system.code !== 'string' || !/^E[A-Z0-9]+$/u.test(system.code))
    return {
      code: 'defect',
      what: system.message ?? String(error),
      hint: 'Please report it with the file and the recipe. Nothing was written.',
      ...at,
    };
  const known = SYSTEM_FAULTS[system.code];
  return { ...(known ?? { code: 'invalid-request', what: `the system refuses it (${system.code})` }), ...at };
}

const NOT_THERE = { code: 'not-found', hint: 'Was it moved or deleted? Scan the folder again.' } as const;
const FULL = {
  code: 'disk-full',
  what: 'the disk is full',
  hint: 'Free some space or choose another folder; nothing half-written was kept.',
} as const;
const REFUSED = {
  code: 'not-allowed',
  what: 'the system refuses access',
  hint: 'Check the rights of the file and its folder.',
} as const;
const IN_USE = { code: 'in-use', what: 'the file is in use', hint: 'Close the game and try again.' } as const;

/** What a person can do about an error of the system, by its code (errno(3)). */
const SYSTEM_FAULTS: Readonly<Record<string, Fault>> = {
  ENOENT: { ...NOT_THERE, what: 'the file is not there' },
  ENOTDIR: { ...NOT_THERE, what: 'a part of the path is a file, not a folder' },
  EISDIR: { code: 'wrong-kind', what: 'this is a folder', hint: 'Choose a file.' },
  EEXIST: { code: 'conflict', what: 'something of that name is there already', hint: 'Choose another name.' },
  ENOTEMPTY: { code: 'conflict', what: 'the folder is not empty', hint: 'Choose another folder.' },
  ENAMETOOLONG: { code: 'invalid-request', what: 'the name is too long for this disk', hint: 'Choose a shorter one.' },
  ELOOP: { code: 'invalid-request', what: 'links lead in a circle', hint: 'Remove one of the links.' },
  ENOSPC: FULL,
  EDQUOT: FULL,
  EACCES: REFUSED,
  EPERM: REFUSED,
  EROFS: {
    code: 'read-only',
    what: 'the folder is read-only',
    hint: 'Choose a folder that can be written to.',
  },
  EBUSY: IN_USE,
  ETXTBSY: IN_USE,
  EMFILE: { code: 'in-use', what: 'too many files are open', hint: 'Close other programs, or raise the limit.' },
  EIO: { code: 'file-changed', what: 'the disk could not be read', hint: 'The disk may be damaged or unplugged.' },
};

/** What the engine says when it runs out of stack or memory. */
function memoryFault(error: RangeError): Fault {
  return /call stack/u.test(error.message)
    ? {
        code: 'limit-reached',
        what: 'formulas or lists lie too deep inside one another',
        hint: 'Look for a formula that leads back to itself, or a list that holds itself.',
      }
    : {
        code: 'limit-reached',
        what: 'this needs more memory than there is',
        hint: 'A size or a count in the file may be wrong.',
      };
}

/** Throws {@link CancelledError} when the signal has been raised. */
export function throwIfStopped(signal: AbortSignal | undefined): void {
  if (signal?.aborted) throw new CancelledError();
}
