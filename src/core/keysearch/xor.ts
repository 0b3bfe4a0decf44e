/** Solving a repeating XOR from bytes whose plain form is known. */

export interface SolvedXor {
  /** The shortest key that explains every known byte, turned so that its first byte meets the first byte of the file. */
  readonly key: Uint8Array;
  /** Where in the stored bytes the known ones begin. */
  readonly at: number;
  /** Known bytes beyond one round of the key, all of which it explains: each agrees by chance once in 256. */
  readonly confirmed: number;
}

/** Longer keys are no longer called repeating. */
const MAX_PERIOD = 4096;

/**
 * The key of a repeating XOR, when the plain bytes at one place are known.
 *
 * @param stored bytes of the file from its start, or from `base` on
 * @param known the plain bytes that are at `at`
 * @param base where `stored` begins in the file: the key's first byte meets byte 0 of it
 * @returns undefined when the known bytes do not lie in the stored ones; a key as long as the known bytes confirms nothing
 */
export function solveXor(stored: Uint8Array, known: Uint8Array, at: number, base = 0): SolvedXor | undefined {
  if (known.length === 0 || at < 0 || at + known.length > stored.length) return undefined;
  const stream = known.map((byte, i) => byte ^ stored[at + i]!);
  const period = shortestPeriod(stream);
  const key = new Uint8Array(period);
  for (let i = 0; i < period; i++) key[(base + at + i) % period] = stream[i]!;
  return { key, at, confirmed: known.length - period };
}

/**
 * The same where no one knows the place: every offset at which the known bytes agree with a key that repeats, the best
 * confirmed first.
 *
 * @param least known bytes that must confirm the key
 */
export function solveXorAnywhere(
  stored: Uint8Array,
  known: Uint8Array,
  { least = 4, most = 20, base = 0 }: { least?: number; most?: number; base?: number } = {},
): SolvedXor[] {
  const found: SolvedXor[] = [];
  const stream = new Uint8Array(known.length);
  for (let at = 0; at + known.length <= stored.length; at++) {
    for (let i = 0; i < known.length; i++) stream[i] = known[i]! ^ stored[at + i]!;
    const period = shortestPeriod(stream, known.length - least);
    if (period > known.length - least) continue;
    const solved = solveXor(stored, known, at, base)!;
    // A key of zeros is no lock: the bytes are there as they are.
    if (solved.key.some((byte) => byte !== 0)) found.push(solved);
  }
  const once = new Map<string, SolvedXor>();
  for (const one of found.sort((a, b) => b.confirmed - a.confirmed || a.at - b.at)) {
    const name = Buffer.from(one.key).toString('latin1');
    if (!once.has(name)) once.set(name, one);
  }
  return [...once.values()].slice(0, most);
}

function shortestPeriod(stream: Uint8Array, most = stream.length): number {
  for (let period = 1; period <= Math.min(most, MAX_PERIOD); period++) {
    let i = period;
    while (i < stream.length && stream[i] === stream[i - period]) i++;
    if (i === stream.length) return period;
  }
  return stream.length;
}

/** Lays a repeating key over bytes; `base` is where they begin in the file. */
export function xorWith(bytes: Uint8Array, key: Uint8Array, base = 0): Uint8Array {
  return bytes.map((byte, i) => byte ^ key[(base + i) % key.length]!);
}
