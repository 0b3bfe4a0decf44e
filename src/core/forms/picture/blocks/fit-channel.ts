/** Fitting one channel of a block: two ends of eight bits, and for each pixel one of the eight values they give (BC4). */
import { channelLevels } from './decode-colour';

const PIXELS = 16;
const levels = new Uint8Array(8);
const values = new Uint8Array(PIXELS);
const found = { error: Infinity, first: 0, second: 0, indices: new Uint8Array(PIXELS) };

/**
 * @param block RGBA of 16 pixels, row by row
 * @param channel 0 for red to 3 for alpha
 * @param best looks around the ends for better ones
 * @param out takes 8 bytes at `at`
 */
export function encodeChannel(block: Uint8Array, channel: number, best: boolean, out: Uint8Array, at: number): void {
  let low = 255;
  let high = 0;
  // Where 0 and 255 are values of their own, the ends are those of the rest.
  let innerLow = 255;
  let innerHigh = 0;
  for (let i = 0; i < PIXELS; i++) {
    const value = block[i * 4 + channel]!;
    values[i] = value;
    if (value < low) low = value;
    if (value > high) high = value;
    if (value !== 0 && value < innerLow) innerLow = value;
    if (value !== 255 && value > innerHigh) innerHigh = value;
  }
  found.error = Infinity;
  attempt(high, low);
  if (found.error > 0 && innerLow <= innerHigh) attempt(innerLow, innerHigh);
  if (best && found.error > 0) lookAround();
  out[at] = found.first;
  out[at + 1] = found.second;
  for (let half = 0; half < 2; half++) {
    let bits = 0;
    for (let i = 0; i < 8; i++) bits |= found.indices[half * 8 + i]! << (i * 3);
    out[at + 2 + half * 3] = bits & 255;
    out[at + 3 + half * 3] = (bits >> 8) & 255;
    out[at + 4 + half * 3] = (bits >> 16) & 255;
  }
}

/** Moves the ends step by step as long as that helps. */
function lookAround(): void {
  for (let step = 8; step >= 1;) {
    const { first, second } = found;
    let better = false;
    for (const [a, b] of [
      [step, 0],
      [-step, 0],
      [0, step],
      [0, -step],
      [step, -step],
      [-step, step],
    ] as const) {
      const next = [first + a, second + b] as const;
      if (next[0] < 0 || next[0] > 255 || next[1] < 0 || next[1] > 255) continue;
      // The larger one first means seven steps; that does not change on the way.
      if (first > second !== next[0] > next[1]) continue;
      if (attempt(next[0], next[1])) better = true;
    }
    if (!better) step >>= 1;
  }
}

function attempt(first: number, second: number): boolean {
  channelLevels(first, second, levels);
  let error = 0;
  for (let i = 0; i < PIXELS; i++) {
    let least = Infinity;
    let index = 0;
    for (let level = 0; level < 8; level++) {
      const distance = (values[i]! - levels[level]!) ** 2;
      if (distance < least) {
        least = distance;
        index = level;
      }
    }
    error += least;
    chosen[i] = index;
  }
  if (error >= found.error) return false;
  found.error = error;
  found.first = first;
  found.second = second;
  found.indices.set(chosen);
  return true;
}
const chosen = new Uint8Array(PIXELS);
