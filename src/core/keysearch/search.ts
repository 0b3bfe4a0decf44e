/** Looking through a stretch of a file for the key of a locked archive. */
import type { ByteSource } from '../bytes';
import { throwIfStopped } from '../faults';
import type { KeyProbe } from '../recipe';
import {
  OVERLAP_BYTES,
  rawCandidates,
  scheduleCandidates,
  textCandidates,
  writtenCandidates,
  type Written,
} from './candidates';

export interface FoundKey {
  readonly key: Uint8Array;
  /** Where it is in the file. */
  readonly at: number;
  readonly written: Written;
}

export interface KeySearchOptions {
  readonly from: number;
  readonly to: number;
  readonly signal?: AbortSignal;
  readonly progress?: (bytes: number) => void;
}

const PIECE_BYTES = 1 << 20;

/**
 * Every key in `[from, to)` of a file that opens what the probe tests. A key that is there twice is found once.
 *
 * @param source the file that is looked through; bytes behind `to` are read for keys that reach over it
 * @throws CancelledError when stopped
 */
export async function searchKeys(
  source: ByteSource,
  probe: KeyProbe,
  { from, to, signal, progress }: KeySearchOptions,
): Promise<FoundKey[]> {
  const found: FoundKey[] = [];
  const seen = new Set<string>();
  for (let start = from; start < to; start += PIECE_BYTES) {
    throwIfStopped(signal);
    const end = Math.min(to, start + PIECE_BYTES);
    const bytes = await source.read(start, Math.min(source.size, end + OVERLAP_BYTES) - start);
    for (const one of passing(bytes, end - start, probe)) {
      const name = Buffer.from(one.key).toString('latin1');
      if (seen.has(name)) continue;
      seen.add(name);
      if (await probe.fits(one.key)) found.push({ ...one, at: start + one.at });
    }
    progress?.(end - start);
  }
  return found;
}

/** What passes the quick test among everything that begins in the first `to` bytes. */
function passing(bytes: Uint8Array, to: number, probe: KeyProbe): FoundKey[] {
  const found: FoundKey[] = [];
  const keep = (key: Uint8Array, at: number, written: Written) => found.push({ key: new Uint8Array(key), at, written });
  const size = probe.bytes;
  if (size === 0) {
    textCandidates(bytes, { to }, (text, _, written, at) => {
      if (probe.mayFit(text, 0)) keep(text, at, written);
    });
    return found;
  }
  rawCandidates(bytes, size, { to }, (at) => {
    if (probe.mayFit(bytes, at)) keep(bytes.subarray(at, at + size), at, 'raw');
  });
  const test = (key: Uint8Array, at: number, written: Written, foundAt: number) => {
    if (probe.mayFit(key, at)) keep(key.subarray(at, at + size), foundAt, written);
  };
  writtenCandidates(bytes, size, { to }, test);
  scheduleCandidates(bytes, size, { to }, test);
  return found;
}
