/**
 * Fitting a block of BC7 in its mode 6: two ends of eight bits a channel with alpha, and sixteen steps between them. It is the
 * mode for what changes smoothly, with or without alpha; the others, for blocks of two or three colours that have nothing to
 * do with each other, are read and not written.
 */
import { WEIGHTS } from './bptc-tables';

const PIXELS = 16;
const STEPS = WEIGHTS[4]!;
const ends = new Float64Array(8);
const axis = new Float64Array(4);
const trial = new Uint8Array(8);
const chosen = new Uint8Array(PIXELS);
const found = { error: Infinity, ends: new Uint8Array(8), indices: new Uint8Array(PIXELS) };
const BEST_ROUNDS = 6;

/**
 * @param block RGBA of 16 pixels, row by row
 * @param out takes 16 bytes at `at`
 */
export function encodeBc7(block: Uint8Array, best: boolean, out: Uint8Array, at: number): void {
  found.error = Infinity;
  startEnds(block);
  attempt(block);
  for (let round = 0; round < (best ? BEST_ROUNDS : 1) && found.error > 0; round++) {
    if (!leastSquares(block) || !attempt(block)) break;
  }
  write(out, at);
}

/** The two outermost colours along the main axis. */
function startEnds(block: Uint8Array): void {
  const mean = [0, 0, 0, 0];
  for (let i = 0; i < 64; i++) mean[i & 3]! += block[i]! / PIXELS;
  const spread = new Float64Array(16);
  for (let i = 0; i < PIXELS; i++)
    for (let a = 0; a < 4; a++)
      for (let b = 0; b < 4; b++) spread[a * 4 + b]! += (block[i * 4 + a]! - mean[a]!) * (block[i * 4 + b]! - mean[b]!);
  axis.fill(1);
  for (let power = 0; power < 8; power++) {
    const next = [0, 0, 0, 0];
    for (let a = 0; a < 4; a++) for (let b = 0; b < 4; b++) next[a]! += spread[a * 4 + b]! * axis[b]!;
    const length = Math.max(...next.map(Math.abs));
    if (length === 0) break;
    for (let a = 0; a < 4; a++) axis[a] = next[a]! / length;
  }
  const norm = axis.reduce((sum, value) => sum + value * value, 0);
  let low = Infinity;
  let high = -Infinity;
  for (let i = 0; i < PIXELS; i++) {
    let at = 0;
    for (let c = 0; c < 4; c++) at += (block[i * 4 + c]! - mean[c]!) * axis[c]!;
    if (at < low) low = at;
    if (at > high) high = at;
  }
  for (let c = 0; c < 4; c++) {
    ends[c] = mean[c]! + (axis[c]! * low) / norm;
    ends[4 + c] = mean[c]! + (axis[c]! * high) / norm;
  }
}

/** Ends that fit the block least squares, for the indices that were found. */
function leastSquares(block: Uint8Array): boolean {
  let aa = 0;
  let bb = 0;
  let ab = 0;
  const ax = [0, 0, 0, 0];
  const bx = [0, 0, 0, 0];
  for (let i = 0; i < PIXELS; i++) {
    const b = STEPS[found.indices[i]!]! / 64;
    const a = 1 - b;
    aa += a * a;
    bb += b * b;
    ab += a * b;
    for (let c = 0; c < 4; c++) {
      ax[c]! += a * block[i * 4 + c]!;
      bx[c]! += b * block[i * 4 + c]!;
    }
  }
  const determinant = aa * bb - ab * ab;
  if (determinant < 1e-9) return false;
  for (let c = 0; c < 4; c++) {
    ends[c] = (ax[c]! * bb - bx[c]! * ab) / determinant;
    ends[4 + c] = (bx[c]! * aa - ax[c]! * ab) / determinant;
  }
  return true;
}

/** Tries the lowest bit of each end, which all its channels share. @returns whether one of the four is the best so far */
function attempt(block: Uint8Array): boolean {
  let better = false;
  for (let shared = 0; shared < 4; shared++) {
    for (let i = 0; i < 8; i++) {
      const bit = i < 4 ? shared & 1 : shared >> 1;
      const seven = Math.min(127, Math.max(0, Math.round((ends[i]! - bit) / 2)));
      trial[i] = (seven << 1) | bit;
    }
    if (measure(block)) better = true;
  }
  return better;
}

function measure(block: Uint8Array): boolean {
  let error = 0;
  for (let i = 0; i < PIXELS && error < found.error; i++) {
    let least = Infinity;
    let index = 0;
    for (let step = 0; step < 16; step++) {
      const weight = STEPS[step]!;
      let distance = 0;
      for (let c = 0; c < 4; c++)
        distance += (block[i * 4 + c]! - (((64 - weight) * trial[c]! + weight * trial[4 + c]! + 32) >> 6)) ** 2;
      if (distance < least) {
        least = distance;
        index = step;
      }
    }
    error += least;
    chosen[i] = index;
  }
  if (error >= found.error) return false;
  found.error = error;
  found.ends.set(trial);
  found.indices.set(chosen);
  return true;
}

function write(out: Uint8Array, at: number): void {
  // The first index has its highest bit left out: it has to be 0.
  const swapped = found.indices[0]! >= 8;
  const end = (which: number, c: number) => found.ends[(which ^ (swapped ? 1 : 0)) * 4 + c]!;
  out.fill(0, at, at + 16);
  let place = 0;
  const put = (value: number, width: number) => {
    for (let i = 0; i < width; i++, place++) out[at + (place >> 3)]! |= ((value >> i) & 1) << (place & 7);
  };
  put(1 << 6, 7);
  for (let c = 0; c < 4; c++) for (let which = 0; which < 2; which++) put(end(which, c) >> 1, 7);
  put(end(0, 0) & 1, 1);
  put(end(1, 0) & 1, 1);
  for (let i = 0; i < PIXELS; i++) put(swapped ? 15 - found.indices[i]! : found.indices[i]!, i === 0 ? 3 : 4);
}
