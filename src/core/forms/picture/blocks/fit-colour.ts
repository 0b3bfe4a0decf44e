/**
 * Fitting the colours of a block of BC1: two ends of 5, 6 and 5 bits, and for each pixel one of the colours between them.
 *
 * Fast takes the ends of the main axis of the colours and moves them to where they fit least squares. Best goes through
 * every way to split the colours, in their order along the axis, into those that take each of the colours (cluster fit),
 * and takes the ends with the least squares of each.
 */
import { expand565 } from './decode-colour';

const PIXELS = 16;
/** The colours that there are, three numbers each, and how many pixels have each of them. */
const colours = new Float64Array(PIXELS * 3);
const counts = new Float64Array(PIXELS);
/** The colour of each pixel; those that are transparent have none. */
const colourOf = new Int8Array(PIXELS);
const order = new Uint8Array(PIXELS);
const along = new Float64Array(PIXELS);
/** Sums of the first so many colours in order, and of their pixels. */
const sums = new Float64Array((PIXELS + 1) * 3);
const counted = new Float64Array(PIXELS + 1);
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
/** The order of the colours in the round before: the same again leads to the same ends. */
const orderBefore = new Uint8Array(PIXELS);

/**
 * @param block RGBA of 16 pixels, row by row
 * @param out takes 8 bytes at `at`
 */
export function encodeColours(block: Uint8Array, fit: ColourFit, out: Uint8Array, at: number): void {
  const count = gather(block, fit.cutOut);
  const clear = colourOf.includes(-1);
  found.error = Infinity;
  found.indices.fill(3);
  if (count === 0) {
    found.first = found.second = 0;
    found.four = false;
  } else if (count === 1 && !clear) single();
  else {
    mainAxis(count);
    if (!clear) fitColours(count, 4, fit);
    // Three colours and none between: better where two thirds are of no use.
    if (clear || (fit.best && !fit.fourOnly)) fitColours(count, 3, fit);
  }
  write(out, at);
}

/** Equal pixels are one colour: most blocks of drawings have few. @returns how many there are */
function gather(block: Uint8Array, cutOut: boolean): number {
  let count = 0;
  for (let pixel = 0; pixel < PIXELS; pixel++) {
    const at = pixel * 4;
    colourOf[pixel] = -1;
    if (cutOut && block[at + 3]! < 128) continue;
    let known = 0;
    while (
      known < count &&
      (colours[known * 3] !== block[at] ||
        colours[known * 3 + 1] !== block[at + 1] ||
        colours[known * 3 + 2] !== block[at + 2])
    )
      known++;
    if (known === count) {
      for (let channel = 0; channel < 3; channel++) colours[count * 3 + channel] = block[at + channel]!;
      counts[count++] = 0;
    }
    counts[known]!++;
    colourOf[pixel] = known;
  }
  return count;
}

interface Ends {
  readonly a: number;
  readonly b: number;
}

/**
 * For each value the two ends, on the grid of a channel, a third between which it lies nearest. Of ends that do as well the
 * nearer ones: readers differ in how they round between them.
 */
function thirdsOn(grid: 31 | 63): readonly Ends[] {
  const wide = (step: number) => (grid === 31 ? (step << 3) | (step >> 2) : (step << 2) | (step >> 4));
  const nearest = new Map<number, Ends>();
  for (let a = 0; a <= grid; a++)
    for (let b = 0; b <= grid; b++) {
      const between = Math.floor((2 * wide(a) + wide(b) + 1) / 3);
      const known = nearest.get(between);
      if (known === undefined || Math.abs(a - b) < Math.abs(known.a - known.b)) nearest.set(between, { a, b });
    }
  const errorOf = (value: number, between: number, { a, b }: Ends) =>
    Math.abs(between - value) + Math.abs(a - b) / 1000;
  return Array.from({ length: 256 }, (_, value) => {
    let best = { ends: { a: 0, b: 0 }, error: Infinity };
    for (const [between, ends] of nearest) {
      const error = errorOf(value, between, ends);
      if (error < best.error) best = { ends, error };
    }
    return best.ends;
  });
}

/** Made when a block is packed: most that load this never do. */
let thirds: { readonly five: readonly Ends[]; readonly six: readonly Ends[] } | undefined;

/** A block of one colour: a third between two ends says it finer than an end can. */
function single(): void {
  thirds ??= { five: thirdsOn(31), six: thirdsOn(63) };
  const red = thirds.five[colours[0]!]!;
  const green = thirds.six[colours[1]!]!;
  const blue = thirds.five[colours[2]!]!;
  found.error = 0;
  found.first = (red.a << 11) | (green.a << 5) | blue.a;
  found.second = (red.b << 11) | (green.b << 5) | blue.b;
  found.four = true;
  found.indices.fill(2);
}

function fitColours(count: number, steps: 3 | 4, { best }: ColourFit): void {
  const rounds = best ? BEST_ROUNDS : FAST_ROUNDS;
  arrange(count);
  for (let channel = 0; channel < 3; channel++) {
    ends[channel] = colours[order[0]! * 3 + channel]!;
    ends[3 + channel] = colours[order[count - 1]! * 3 + channel]!;
  }
  if (!attempt(count, steps) && !best) return;
  for (let round = 0; round < rounds && found.error > 0; round++) {
    if (best) clusters(count, steps);
    else leastSquares(count, steps);
    const better = attempt(count, steps);
    if (!better && round > 0) return;
    for (let channel = 0; channel < 3; channel++) axis[channel] = ends[3 + channel]! - ends[channel]!;
    if (best && !arrange(count)) return;
  }
}

/** The direction along which the colours differ most, by powers of their covariance. */
function mainAxis(count: number): void {
  const mean = [0, 0, 0];
  let pixels = 0;
  for (let i = 0; i < count; i++) pixels += counts[i]!;
  for (let i = 0; i < count; i++) for (let c = 0; c < 3; c++) mean[c]! += (colours[i * 3 + c]! * counts[i]!) / pixels;
  const spread = new Float64Array(6);
  for (let i = 0; i < count; i++) {
    const r = colours[i * 3]! - mean[0]!;
    const g = colours[i * 3 + 1]! - mean[1]!;
    const b = colours[i * 3 + 2]! - mean[2]!;
    const many = counts[i]!;
    spread[0]! += many * r * r;
    spread[1]! += many * r * g;
    spread[2]! += many * r * b;
    spread[3]! += many * g * g;
    spread[4]! += many * g * b;
    spread[5]! += many * b * b;
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

/** Puts the colours in order along the axis, and sums them up. @returns false when the order is the one of before */
function arrange(count: number): boolean {
  for (let i = 0; i < count; i++) {
    along[i] = colours[i * 3]! * axis[0]! + colours[i * 3 + 1]! * axis[1]! + colours[i * 3 + 2]! * axis[2]!;
    let at = i;
    while (at > 0 && along[order[at - 1]!]! > along[i]!) {
      order[at] = order[at - 1]!;
      at--;
    }
    order[at] = i;
  }
  let other = false;
  for (let i = 0; i < count; i++) {
    other ||= order[i] !== orderBefore[i];
    const at = order[i]!;
    orderBefore[i] = at;
    counted[i + 1] = counted[i]! + counts[at]!;
    for (let c = 0; c < 3; c++) sums[(i + 1) * 3 + c] = sums[i * 3 + c]! + colours[at * 3 + c]! * counts[at]!;
  }
  return other;
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
    const b = between[indexOf[i]!]!;
    const a = 1 - b;
    const many = counts[i]!;
    aa += a * a * many;
    bb += b * b * many;
    ab += a * b * many;
    for (let c = 0; c < 3; c++) {
      ax[c]! += a * colours[i * 3 + c]! * many;
      bx[c]! += b * colours[i * 3 + c]! * many;
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
  const weight = steps === 4 ? 1 / 3 : 1 / 2;
  const rest = 1 - weight;
  const both = weight * rest;
  const total = counted[count]!;
  const [allRed, allGreen, allBlue] = [sums[count * 3]!, sums[count * 3 + 1]!, sums[count * 3 + 2]!];
  for (let i = 0; i <= count; i++) {
    for (let j = i; j <= count; j++) {
      // From `i` to `j` a third (or half) of the way, from `j` to `k` two thirds.
      const near = counted[j]! - counted[i]!;
      const nearRed = sums[i * 3]! + (sums[j * 3]! - sums[i * 3]!) * rest;
      const nearGreen = sums[i * 3 + 1]! + (sums[j * 3 + 1]! - sums[i * 3 + 1]!) * rest;
      const nearBlue = sums[i * 3 + 2]! + (sums[j * 3 + 2]! - sums[i * 3 + 2]!) * rest;
      const last = steps === 4 ? count : j;
      for (let k = j; k <= last; k++) {
        const far = counted[k]! - counted[j]!;
        const aa = counted[i]! + near * rest * rest + far * weight * weight;
        const bb = total - counted[k]! + far * rest * rest + near * weight * weight;
        const ab = (near + far) * both;
        const determinant = aa * bb - ab * ab;
        if (determinant < 1e-9) continue;
        const scale = 1 / determinant;
        // Channel by channel, and not in a loop: this is where nearly all of the time goes.
        const redA = nearRed + (sums[k * 3]! - sums[j * 3]!) * weight;
        const redB = allRed - redA;
        const redFirst = onGrid((redA * bb - redB * ab) * scale, 31);
        const redSecond = onGrid((redB * aa - redA * ab) * scale, 31);
        let error =
          aa * redFirst * redFirst +
          bb * redSecond * redSecond +
          2 * (ab * redFirst * redSecond - redFirst * redA - redSecond * redB);
        const greenA = nearGreen + (sums[k * 3 + 1]! - sums[j * 3 + 1]!) * weight;
        const greenB = allGreen - greenA;
        const greenFirst = onGrid((greenA * bb - greenB * ab) * scale, 63);
        const greenSecond = onGrid((greenB * aa - greenA * ab) * scale, 63);
        error +=
          aa * greenFirst * greenFirst +
          bb * greenSecond * greenSecond +
          2 * (ab * greenFirst * greenSecond - greenFirst * greenA - greenSecond * greenB);
        const blueA = nearBlue + (sums[k * 3 + 2]! - sums[j * 3 + 2]!) * weight;
        const blueB = allBlue - blueA;
        const blueFirst = onGrid((blueA * bb - blueB * ab) * scale, 31);
        const blueSecond = onGrid((blueB * aa - blueA * ab) * scale, 31);
        error +=
          aa * blueFirst * blueFirst +
          bb * blueSecond * blueSecond +
          2 * (ab * blueFirst * blueSecond - blueFirst * blueA - blueSecond * blueB);
        if (error >= best) continue;
        best = error;
        ends[0] = redFirst;
        ends[1] = greenFirst;
        ends[2] = blueFirst;
        ends[3] = redSecond;
        ends[4] = greenSecond;
        ends[5] = blueSecond;
      }
    }
  }
}

function onGrid(value: number, grid: number): number {
  const step = (value * (grid / 255) + 0.5) | 0;
  return (step < 0 ? 0 : step > grid ? grid : step) * (255 / grid);
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
    error += least * counts[i]!;
    chosen[i] = index;
  }
  if (error >= found.error) return false;
  found.error = error;
  found.first = first;
  found.second = second;
  found.four = steps === 4;
  indexOf.set(chosen);
  for (let pixel = 0; pixel < PIXELS; pixel++)
    if (colourOf[pixel]! >= 0) found.indices[pixel] = chosen[colourOf[pixel]!]!;
  return true;
}
/** The index of each colour in the attempt at hand, and in the best one. */
const chosen = new Uint8Array(PIXELS);
const indexOf = new Uint8Array(PIXELS);

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
