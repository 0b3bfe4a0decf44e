/** Testing paths against the hashes of entries no one has named. */
import { throwIfStopped } from '../faults';
import { pathHashing, type Formula, type Value } from '../recipe';
import { hashRule, type HashRule } from './hash-rule';
import { kernelOf, type Kernel } from './kernels';
import { pathAt, type Pattern } from './pattern';
import type { HashTargets } from './targets';

/** What is returned for a match: the path, and its number among all of the pattern. */
export type OnMatch = (path: string, index: number) => void;

interface SearchOptions {
  readonly signal?: AbortSignal | undefined;
  /** Told now and then how many have been tested, of the range. */
  readonly progress?: (tested: number) => void;
}

/** Between two looks at the signal. */
const A_TURN = 1 << 20;

/**
 * Tests the paths `[from, to)` of a pattern. Gives way to other work now and then, and can be stopped there.
 *
 * @throws CancelledError when the signal says so
 */
export async function searchPattern(
  pattern: Pattern,
  hashing: Formula,
  targets: HashTargets,
  range: { readonly from: number; readonly to: number },
  onMatch: OnMatch,
  { signal, progress }: SearchOptions = {},
): Promise<void> {
  const fast = fastSearch(pattern, hashing, targets);
  const hashOf = pathHashing(hashing);
  const slow = (from: number, to: number) => {
    for (let i = from; i < to; i++) if (targets.has(hashOf(pathAt(pattern, i)))) onMatch(pathAt(pattern, i), i);
  };
  const turn = fast === undefined ? A_TURN >> 4 : A_TURN;
  for (let at = range.from; at < range.to; at += turn) {
    throwIfStopped(signal);
    const end = Math.min(range.to, at + turn);
    if (fast === undefined) slow(at, end);
    else fast(at, end, (index) => onMatch(pathAt(pattern, index), index));
    progress?.(end - range.from);
    await new Promise((resolve) => setTimeout(resolve, 0));
  }
}

/** The hash of a path, as entries have it, in the quickest way there is. */
export function quickHash(hashing: Formula): (path: string) => Value {
  const slow = pathHashing(hashing);
  const rule = hashRule(hashing.text);
  const kernel = rule === undefined ? undefined : kernelOf(rule.hasher);
  if (rule === undefined || kernel === undefined) return slow;
  const states = Uint32Array.from([...kernel.start, 0, 0, 0, 0, 0, 0]);
  kernel.feed(states, 0, 1, rule.before);
  return (path) => {
    const bytes = treatedBytes(path, rule.treated);
    if (bytes === undefined) return slow(path);
    kernel.feed(states, 1, 2, bytes);
    kernel.feed(states, 2, 3, rule.after);
    kernel.finish?.(states, 3);
    const [high, low] = [states[6]!, states[7]!];
    if (high > 0x1fffff) return (BigInt(high) << 32n) | BigInt(low);
    return high * 2 ** 32 + low;
  };
}

/** Undefined for what is not ASCII. */
function treatedBytes(text: string, treated: Uint8Array): Uint8Array | undefined {
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (code > 127) return undefined;
    bytes[i] = treated[code]!;
  }
  return bytes;
}

type FastSearch = (from: number, to: number, onMatch: (index: number) => void) => void;

/**
 * Goes through a pattern as a counter does: only what turned over is hashed again, from the state in front of it.
 * Undefined where the hash has no kernel, or where the pattern is not ASCII.
 */
function fastSearch(pattern: Pattern, hashing: Formula, targets: HashTargets): FastSearch | undefined {
  const rule = hashRule(hashing.text);
  const kernel = rule === undefined ? undefined : kernelOf(rule.hasher);
  if (rule === undefined || kernel === undefined) return undefined;
  const parts = treatedParts(pattern, rule);
  if (parts === undefined) return undefined;
  const last = parts.length - 1;
  const states = new Uint32Array(2 * (parts.length + 1));
  return (from, to, onMatch) => {
    const places = new Array<number>(parts.length).fill(0);
    let rest = from;
    for (let i = last; i >= 0; i--) {
      places[i] = rest % parts[i]!.length;
      rest = Math.floor(rest / parts[i]!.length);
    }
    states[0] = kernel.start[0];
    states[1] = kernel.start[1];
    for (let i = 0; i < last; i++) kernel.feed(states, i, i + 1, parts[i]![places[i]!]!);
    for (let index = from; index < to;) {
      const options = parts[last]!;
      const stop = Math.min(options.length, places[last]! + (to - index));
      index = inner(kernel, states, last, options, { start: places[last]!, stop, index }, targets, onMatch);
      // The last place is through: the one before it goes on, and those behind start again.
      let turn = last - 1;
      while (turn >= 0 && places[turn] === parts[turn]!.length - 1) turn--;
      if (turn < 0) return;
      places[turn]!++;
      for (let i = turn + 1; i <= last; i++) places[i] = 0;
      for (let i = turn; i < last; i++) kernel.feed(states, i, i + 1, parts[i]![places[i]!]!);
    }
  };
}

function inner(
  kernel: Kernel,
  states: Uint32Array,
  last: number,
  options: readonly Uint8Array[],
  { start, stop, index }: { start: number; stop: number; index: number },
  targets: HashTargets,
  onMatch: (index: number) => void,
): number {
  const high = 2 * (last + 1);
  for (let i = start; i < stop; i++) {
    kernel.feed(states, last, last + 1, options[i]!);
    kernel.finish?.(states, last + 1);
    const low = states[high + 1]!;
    if (targets.mayHave(low)) {
      const has = kernel.lanes === 1 ? targets.has32(low) : targets.has64(states[high]!, low);
      if (has) onMatch(index + i - start);
    }
  }
  return index + (stop - start);
}

/** The bytes of all options; literals are joined with the place before them, so that they cost no turn of their own. */
function treatedParts({ parts }: Pattern, { treated, before, after }: HashRule): Uint8Array[][] | undefined {
  const bytesOf = (text: string) => treatedBytes(text, treated);
  const made: Uint8Array[][] = [];
  for (const part of parts) {
    const options = part.map(bytesOf);
    if (options.some((option) => option === undefined)) return undefined;
    made.push(options as Uint8Array[]);
  }
  const joined: Uint8Array[][] = [[before]];
  for (const options of made) {
    const previous = joined.at(-1)!;
    if (previous.length === 1 || options.length === 1)
      joined[joined.length - 1] = previous.flatMap((a) => options.map((b) => Buffer.concat([a, b])));
    else joined.push(options);
  }
  joined[joined.length - 1] = joined.at(-1)!.map((option) => new Uint8Array(Buffer.concat([option, after])));
  return joined;
}
