/**
 * Fitting the colours of a block of BC1: two ends of 5, 6 and 5 bits, and for each pixel one of the colours between them.
 *
 * Fast takes the ends of the main axis of the colours and moves them to where they fit least squares. Best goes through
 * every way to split the colours, in their order along the axis, into those that take each of the colours (cluster fit),
 * and takes the ends with the least squares of each.
 */
import { expand565 } from './decode-colour';

const PIXELS = 16;
/** Colours of the pixels that count, three numbers each. */
const colours = new Float64Array(PIXELS * 3);
/** The pixel of each. */
const places = new Uint8Array(PIXELS);
const order = new Uint8Array(PIXELS);
const along = new Float64Array(PIXELS);
/** Sums of the first so many colours in order. */
const sums = new Float64Array((PIXELS + 1) * 3);
const ends = new Float64Array(6);
const axis = new Float64Array(3);
const palette = new Uint8Array(16);

const GRID = [31, 63, 31] as const;
/** Rounds of ordering by the axis of the ends that were found. */
const BEST_ROUNDS = 4;
const FAST_ROUNDS = 2;

export interface ColourFit {
  readonly best: boolean;
  /** Pixels with alpha below 128 become transparent, which leaves three colours to the rest. */
  readonly cutOut: boolean;
  /** Inside BC3 there are always four colours. */
  readonly fourOnly: boolean;
}

/** The best of what was tried for this block. */
const found = { error: Infinity, first: 0, second: 0, four: true, indices: new Uint8Array(PIXELS) };

/**
 * @param block RGBA of 16 pixels, row by row
 * @param out takes 8 bytes at `at`
 */
export function encodeColours(block: Uint8Array, fit: ColourFit, out: Uint8Array, at: number): void {
  let count = 0;
  for (let pixel = 0; pixel < PIXELS; pixel++) {
    if (fit.cutOut && block[pixel * 4 + 3]! < 128) continue;
    for (let channel = 0; channel < 3; channel++) colours[count * 3 + channel] = block[pixel * 4 + channel]!;
    places[count++] = pixel;
  }
  const clear = count < PIXELS;
  found.error = Infinity;
  found.indices.fill(3);
  if (count === 0) {
    found.first = found.second = 0;
    found.four = false;
  } else {
    const four = !clear;
    mainAxis(count);
    if (four) fitColours(count, 4, fit);
    // Three colours and none between: better where two thirds are of no use.
    if (clear || (fit.best && !fit.fourOnly)) fitColours(count, 3, fit);
  }
  write(out, at);
}

function fitColours(count: number, steps: 3 | 4, { best }: ColourFit): void {
  const rounds = best ? BEST_ROUNDS : FAST_ROUNDS;
  arrange(count);
  for (let channel = 0; channel < 3; channel++) {
    ends[channel] = colours[order[0]! * 3 + channel]!;
    ends[3 + channel] = colours[order[count - 1]! * 3 + channel]!;
  }
  if (!attempt(count, steps)) return;
  for (let round = 0; round < rounds && found.error > 0; round++) {
    if (best) clusters(count, steps);
    else leastSquares(count, steps);
    const better = attempt(count, steps);
    if (!better && round > 0) return;
    for (let channel = 0; channel < 3; channel++) axis[channel] = ends[3 + channel]! - ends[channel]!;
    if (best) arrange(count);
  }
}

/** The direction along which the colours differ most, by powers of their covariance. */
function mainAxis(count: number): void {
  const mean = [0, 0, 0];
  for (let i = 0; i < count; i++) for (let c = 0; c < 3; c++) mean[c]! += colours[i * 3 + c]! / count;
  const spread = new Float64Array(6);
  for (let i = 0; i < count; i++) {
    const r = colours[i * 3]! - mean[0]!;
    const g = colours[i * 3 + 1]! - mean[1]!;
    const b = colours[i * 3 + 2]! - mean[2]!;
    spread[0]! += r * r;
    spread[1]! += r * g;
    spread[2]! += r * b;
    spread[3]! += g * g;
    spread[4]! += g * b;
    spread[5]! += b * b;
  }
  axis.fill(1);
  for (let power = 0; power < 8; power++) {
    const [x, y, z] = [axis[0]!, axis[1]!, axis[2]!];
    axis[0] = spread[0]! * x + spread[1]! * y + spread[2]! * z;
    axis[1] = spread[1]! * x + spread[3]! * y + spread[4]! * z;
    axis[2] = spread[2]! * x + spread[4]! * y + spread[5]! * z;
    const length = Math.max(Math.abs(axis[0]), Math.abs(axis[1]), Math.abs(axis[2]));
    if (length === 0) return void axis.fill(1);
    for (let c = 0; c < 3; c++) axis[c]! /= length;
  }
}

/** Puts the colours in order along the axis, and sums them up. */
function arrange(count: number): void {
  for (let i = 0; i < count; i++) {
    along[i] = colours[i * 3]! * axis[0]! + colours[i * 3 + 1]! * axis[1]! + colours[i * 3 + 2]! * axis[2]!;
    let at = i;
    while (at > 0 && along[order[at - 1]!]! > along[i]!) {
      order[at] = order[at - 1]!;
      at--;
    }
    order[at] = i;
  }
  for (let i = 0; i < count; i++)
    for (let c = 0; c < 3; c++) sums[(i + 1) * 3 + c] = sums[i * 3 + c]! + colours[order[i]! * 3 + c]!;
}

/** Ends that fit the colours least squares, for the indices that were found. */
function leastSquares(count: number, steps: 3 | 4): void {
  const between = steps === 4 ? [0, 1, 1 / 3, 2 / 3] : [0, 1, 1 / 2];
  let aa = 0;
  let bb = 0;
  let ab = 0;
  const ax = [0, 0, 0];
  const bx = [0, 0, 0];
  for (let i = 0; i < count; i++) {
    const b = between[found.indices[places[i]!]!]!;
    const a = 1 - b;
    aa += a * a;
    bb += b * b;
    ab += a * b;
    for (let c = 0; c < 3; c++) {
      ax[c]! += a * colours[i * 3 + c]!;
      bx[c]! += b * colours[i * 3 + c]!;
    }
  }
  const determinant = aa * bb - ab * ab;
  if (determinant < 1e-9) return;
  for (let c = 0; c < 3; c++) {
    ends[c] = (ax[c]! * bb - bx[c]! * ab) / determinant;
    ends[3 + c] = (bx[c]! * aa - ax[c]! * ab) / determinant;
  }
}

/** The ends with the least error over every split of the ordered colours into those of each step. */
function clusters(count: number, steps: 3 | 4): void {
  let best = Infinity;
  const a = [0, 0, 0];
  const b = [0, 0, 0];
  const weight = steps === 4 ? 1 / 3 : 1 / 2;
  const rest = 1 - weight;
  for (let i = 0; i <= count; i++) {
    for (let j = i; j <= count; j++) {
      const last = steps === 4 ? count : j;
      for (let k = j; k <= last; k++) {
        // From `i` to `j` a third (or half) of the way, from `j` to `k` two thirds.
        const near = j - i;
        const far = k - j;
        const aa = i + near * rest * rest + far * weight * weight;
        const bb = count - k + far * rest * rest + near * weight * weight;
        const ab = (near + far) * weight * rest;
        const determinant = aa * bb - ab * ab;
        if (determinant < 1e-9) continue;
        let error = 0;
        for (let c = 0; c < 3; c++) {
          const first = sums[i * 3 + c]!;
          const second = sums[j * 3 + c]! - first;
          const third = sums[k * 3 + c]! - sums[j * 3 + c]!;
          const ax = first + second * rest + third * weight;
          const bx = sums[count * 3 + c]! - ax;
          const grid = GRID[c]!;
          a[c] = onGrid((ax * bb - bx * ab) / determinant, grid);
          b[c] = onGrid((bx * aa - ax * ab) / determinant, grid);
          error += aa * a[c]! * a[c]! + bb * b[c]! * b[c]! + 2 * (ab * a[c]! * b[c]! - a[c]! * ax - b[c]! * bx);
        }
        if (error >= best) continue;
        best = error;
        for (let c = 0; c < 3; c++) {
          ends[c] = a[c]!;
          ends[3 + c] = b[c]!;
        }
      }
    }
  }
}

function onGrid(value: number, grid: number): number {
  const step = Math.round((value * grid) / 255);
  return ((step < 0 ? 0 : step > grid ? grid : step) * 255) / grid;
}

function pack565(from: number): number {
  const part = (c: number) => {
    const step = Math.round((ends[from + c]! * GRID[c]!) / 255);
    return step < 0 ? 0 : step > GRID[c]! ? GRID[c]! : step;
  };
  return (part(0) << 11) | (part(1) << 5) | part(2);
}

/** Takes the ends as they are written, gives each pixel its nearest colour, and keeps that when it is the best so far. */
function attempt(count: number, steps: 3 | 4): boolean {
  const first = pack565(0);
  const second = pack565(3);
  expand565(first, palette, 0);
  expand565(second, palette, 4);
  for (let c = 0; c < 3; c++) {
    const a = palette[c]!;
    const b = palette[4 + c]!;
    palette[8 + c] = steps === 4 ? (2 * a + b + 1) / 3 : (a + b) >> 1;
    palette[12 + c] = (a + 2 * b + 1) / 3;
  }
  let error = 0;
  for (let i = 0; i < count; i++) {
    let least = Infinity;
    let index = 0;
    for (let step = 0; step < steps; step++) {
      const r = colours[i * 3]! - palette[step * 4]!;
      const g = colours[i * 3 + 1]! - palette[step * 4 + 1]!;
      const b = colours[i * 3 + 2]! - palette[step * 4 + 2]!;
      const distance = r * r + g * g + b * b;
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
  found.first = first;
  found.second = second;
  found.four = steps === 4;
  for (let i = 0; i < count; i++) found.indices[places[i]!] = chosen[i]!;
  return true;
}
const chosen = new Uint8Array(PIXELS);

/** Which of the two ends is larger says how many colours there are. */
function write(out: Uint8Array, at: number): void {
  let { first, second } = found;
  const { four, indices } = found;
  const swapped = four ? first < second : first > second;
  if (swapped) [first, second] = [second, first];
  out[at] = first & 255;
  out[at + 1] = first >> 8;
  out[at + 2] = second & 255;
  out[at + 3] = second >> 8;
  for (let row = 0; row < 4; row++) {
    let bits = 0;
    for (let x = 0; x < 4; x++) {
      let index = indices[row * 4 + x]!;
      // Of two equal ends only the first says the same with three colours and with four.
      if (four && first === second) index = 0;
      else if (swapped && (four || index < 2)) index ^= 1;
      bits |= index << (x * 2);
    }
    out[at + 4 + row] = bits;
  }
}
