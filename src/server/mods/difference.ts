/** What makes one file of another: VCDIFF (RFC 3284), by the xdelta3 program from Debian's packages. */
import { execFile } from 'node:child_process';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createReadStream } from 'node:fs';
import { CancelledError, FaultError } from '../../core/faults';
import { blobPath, keepBlob, type Blob } from '../storage';

const PROGRAM = 'xdelta3';
/** Plain RFC 3284: no checksums, second packing or application header of the program's own. */
const PLAIN = ['-n', '-A', '-S', 'none'];
/** Bytes of the old file that are looked at together. */
const WINDOW = 64 << 20;

/** @returns the difference as a blob; without a file before, what makes the file of nothing but itself */
export function differenceOf(before: string | undefined, after: string, signal: AbortSignal): Promise<Blob> {
  const source = before === undefined ? [] : ['-s', blobPath(before)];
  return intoBlob(['-e', ...PLAIN, '-B', String(WINDOW), ...source, blobPath(after)], signal);
}

/**
 * @param difference a file that holds it
 * @param most bytes the result may have
 * @throws FaultError `wrong-kind` when it does not fit the file before
 */
export function applyDifference(before: string, difference: string, most: number, signal: AbortSignal): Promise<Blob> {
  return intoBlob(['-d', '-n', '-B', String(WINDOW), '-s', blobPath(before), difference], signal, most);
}

async function intoBlob(args: readonly string[], signal: AbortSignal, most?: number): Promise<Blob> {
  const folder = await mkdtemp(join(tmpdir(), 'zero-latch-difference-'));
  const out = join(folder, 'out');
  try {
    await new Promise<void>((resolve, reject) => {
      execFile(PROGRAM, ['-f', ...args, out], { signal, timeout: 600_000, killSignal: 'SIGKILL' }, (error, _, said) => {
        if (signal.aborted) return reject(new CancelledError());
        if (error === null) return resolve();
        const missing = (error as { code?: unknown }).code === 'ENOENT';
        reject(
          new FaultError({
            code: 'wrong-kind',
            what: missing ? 'the program for differences is not installed' : 'the difference does not fit the file',
            found: said.trim().split('\n').at(-1) ?? error.message,
            hint: missing ? `Install ${PROGRAM}.` : 'Is it made for another build of the game?',
          }),
        );
      });
    });
    return await keepBlob(createReadStream(out), most === undefined ? {} : { maxBytes: most });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
