/** Looks for needles in bytes that come piece by piece. */
import type { Needle } from './needles';

export interface Hit {
  /** From the start of the entry. */
  readonly at: number;
  readonly length: number;
  readonly as: string;
  /** Bytes around the hit; it begins at `lead` in them. */
  readonly around: Uint8Array;
  readonly lead: number;
}

/** Bytes that are shown before and after a hit. */
export const CONTEXT_BYTES = 32;

/**
 * Hits in order within each piece, each place once for each needle, also where two pieces meet. No more than `most`.
 *
 * @param most hits after which the rest is not looked at
 */
export async function* findInside(
  chunks: AsyncIterable<Uint8Array>,
  needles: readonly Needle[],
  most = Infinity,
): AsyncGenerator<Hit> {
  const longest = Math.max(...needles.map(({ bytes }) => bytes.length));
  // What may still begin a hit, or is around one, is kept for the next piece.
  const keep = longest - 1 + CONTEXT_BYTES;
  let kept: Buffer = Buffer.alloc(0);
  let start = 0;
  let searched = 0;
  let left = most;
  const hitsOf = function* (bytes: Buffer, upTo: number): Generator<Hit> {
    const folded = needles.some(({ folds }) => folds) ? lowerCase(bytes) : bytes;
    const found: Hit[] = [];
    for (const needle of needles) {
      const last = Math.min(upTo, bytes.length - needle.bytes.length + 1);
      for (const at of placesOf(needle.folds ? folded : bytes, needle, searched - start, last))
        found.push(hitAt(bytes, start, at, needle));
    }
    found.sort((a, b) => a.at - b.at);
    for (const hit of found) if (left-- > 0) yield hit;
  };
  for await (const chunk of chunks) {
    if (left <= 0) return;
    const bytes = Buffer.concat([kept, chunk]);
    // The end waits for what follows, so that hits have their surroundings.
    const upTo = Math.max(0, bytes.length - keep);
    if (start + upTo > searched) {
      yield* hitsOf(bytes, upTo);
      searched = start + upTo;
    }
    const drop = Math.max(0, bytes.length - keep - CONTEXT_BYTES);
    kept = bytes.subarray(drop);
    start += drop;
  }
  if (left > 0) yield* hitsOf(kept, kept.length);
}

/** Places from `from` on and before `to` where the needle begins. */
function* placesOf(bytes: Buffer, { bytes: needle, mask }: Needle, from: number, to: number): Generator<number> {
  // With a mask, the longest run of whole bytes is looked for, and the rest compared.
  const run = mask === undefined ? { at: 0, length: needle.length } : longestRun(mask);
  const sought = Buffer.from(needle.buffer, needle.byteOffset + run.at, run.length);
  for (let at = Math.max(0, from); at < to; at++) {
    const found = bytes.indexOf(sought, at + run.at);
    if (found < 0) return;
    at = found - run.at;
    if (at >= to) return;
    if (mask === undefined || agrees(bytes, at, needle, mask)) yield at;
  }
}

function longestRun(mask: Uint8Array): { at: number; length: number } {
  let best = { at: 0, length: 0 };
  for (let at = 0; at < mask.length; at++) {
    let length = 0;
    while (mask[at + length] === 0xff) length++;
    if (length > best.length) best = { at, length };
    at += length;
  }
  return best;
}

function agrees(bytes: Uint8Array, at: number, needle: Uint8Array, mask: Uint8Array): boolean {
  if (at < 0) return false;
  for (let i = 0; i < needle.length; i++) if ((bytes[at + i]! & mask[i]!) !== needle[i]) return false;
  return true;
}

function hitAt(bytes: Buffer, start: number, at: number, { bytes: needle, as }: Needle): Hit {
  const from = Math.max(0, at - CONTEXT_BYTES);
  return {
    at: start + at,
    length: needle.length,
    as,
    around: Uint8Array.from(bytes.subarray(from, at + needle.length + CONTEXT_BYTES)),
    lead: at - from,
  };
}

function lowerCase(bytes: Buffer): Buffer {
  const lower = Buffer.from(bytes);
  for (let i = 0; i < lower.length; i++) {
    const byte = lower[i]!;
    if (byte >= 0x41 && byte <= 0x5a) lower[i] = byte | 0x20;
  }
  return lower;
}
