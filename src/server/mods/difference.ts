/** What makes one file of another: VCDIFF (RFC 3284), by the xdelta3 program from Debian's packages. */
import { spawn } from 'node:child_process';
import { PassThrough } from 'node:stream';
import { CancelledError, FaultError } from '../../core/faults';
import { blobFile, keepBlob, type Blob } from '../storage';
import { startFault } from '../../programs';

const PROGRAM = 'xdelta3';
/** Plain RFC 3284: no checksums, second packing or application header of the program's own. */
const PLAIN = ['-n', '-A', '-S', 'none'];
/** Bytes of the old file that are looked at together. */
const WINDOW = 64 << 20;
const LIMIT_MS = 600_000;

/** @returns the difference as a blob; without a file before, what makes the file of nothing but itself */
export async function differenceOf(before: string | undefined, after: string, signal: AbortSignal): Promise<Blob> {
  const source = before === undefined ? [] : ['-s', await blobFile(before)];
  return intoBlob(['-e', ...PLAIN, '-B', String(WINDOW), ...source, await blobFile(after)], signal);
}

/**
 * @param difference a file that holds it
 * @param most bytes the result may have
 * @throws FaultError `wrong-kind` when it does not fit the file before
 */
export async function applyDifference(
  before: string,
  difference: string,
  most: number,
  signal: AbortSignal,
): Promise<Blob> {
  return intoBlob(['-d', '-n', '-B', String(WINDOW), '-s', await blobFile(before), difference], signal, most);
}

async function intoBlob(args: readonly string[], signal: AbortSignal, most?: number): Promise<Blob> {
  const child = spawn(PROGRAM, ['-c', ...args], { stdio: ['ignore', 'pipe', 'pipe'], signal, timeout: LIMIT_MS });
  let said = '';
  child.stderr.on('data', (chunk: Buffer) => (said = `${said}${String(chunk)}`.slice(-2000)));
  const ended = new Promise<{ code: number | null; failure?: NodeJS.ErrnoException }>((resolve) => {
    child.on('error', (failure: NodeJS.ErrnoException) => resolve({ code: null, failure }));
    child.on('close', (code) => resolve({ code }));
  });
  // What it writes is counted as it comes: a few bytes of a stranger may ask for very many.
  // Read from the start: output that is unread when a process ends is lost.
  const written = child.stdout.pipe(new PassThrough());
  const kept = keepBlob(written, most === undefined ? {} : { maxBytes: most }).catch((error: unknown) => {
    child.kill('SIGKILL');
    throw error;
  });
  const [{ code, failure }, blob] = await Promise.all([ended, kept]);
  if (signal.aborted) throw new CancelledError();
  if (code === 0) return blob;
  if (failure !== undefined) throw startFault(PROGRAM, failure);
  throw new FaultError({
    code: 'wrong-kind',
    what: 'the difference does not fit the file',
    found: said.trim().split('\n').at(-1) || 'no word of why',
    hint: 'Is it made for another build of the game?',
  });
}
