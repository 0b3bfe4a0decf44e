/** Decoding of BC7: Khronos Data Format Specification 1.3, section 20.1. */
import { BlockBits, isAnchor, subsetOf, WEIGHTS } from './bptc-tables';

interface Mode {
  readonly subsets: number;
  readonly partitionBits: number;
  readonly rotationBits: number;
  /** One bit that swaps the two sets of indices. */
  readonly selectionBits: number;
  readonly colourBits: number;
  readonly alphaBits: number;
  /** A lowest bit for each end, or one for both ends of a subset. */
  readonly sharedBits: 'each' | 'subset' | undefined;
  readonly indexBits: number;
  readonly secondBits: number;
}

const mode = (
  [subsets, partitionBits, rotationBits, selectionBits, colourBits, alphaBits]: readonly number[],
  sharedBits: Mode['sharedBits'],
  [indexBits, secondBits]: readonly number[],
): Mode => ({
  subsets: subsets!,
  partitionBits: partitionBits!,
  rotationBits: rotationBits!,
  selectionBits: selectionBits!,
  colourBits: colourBits!,
  alphaBits: alphaBits!,
  sharedBits,
  indexBits: indexBits!,
  secondBits: secondBits!,
});

const MODES: readonly Mode[] = [
  mode([3, 4, 0, 0, 4, 0], 'each', [3, 0]),
  mode([2, 6, 0, 0, 6, 0], 'subset', [3, 0]),
  mode([3, 6, 0, 0, 5, 0], undefined, [2, 0]),
  mode([2, 6, 0, 0, 7, 0], 'each', [2, 0]),
  mode([1, 0, 2, 1, 5, 6], undefined, [2, 3]),
  mode([1, 0, 2, 0, 7, 8], undefined, [2, 2]),
  mode([1, 0, 0, 0, 7, 7], 'each', [4, 0]),
  mode([2, 6, 0, 0, 5, 5], 'each', [2, 0]),
];

/** Ends of up to three subsets: two of each, four channels of each end. */
const ends = new Uint16Array(24);
const indices = new Uint8Array(16);
const second = new Uint8Array(16);

/** One block of 16 bytes. A block of a mode that does not exist is transparent black, as the standard has it. */
export function decodeBc7(bytes: Uint8Array, at: number, out: Uint8Array): void {
  const bits = new BlockBits(bytes, at);
  let number = 0;
  while (number < 8 && bits.take(1) === 0) number++;
  const known = MODES[number];
  if (known === undefined) return void out.fill(0);
  const partition = bits.take(known.partitionBits);
  const rotation = bits.take(known.rotationBits);
  const selection = bits.take(known.selectionBits);
  takeEnds(bits, known);
  takeIndices(bits, known.subsets, partition, known.indexBits, indices);
  if (known.secondBits > 0) takeIndices(bits, 1, 0, known.secondBits, second);
  for (let pixel = 0; pixel < 16; pixel++) {
    const subset = subsetOf(known.subsets, partition, pixel);
    const two = known.secondBits > 0;
    const [colourIndex, colourBits] =
      two && selection === 1 ? [second[pixel]!, known.secondBits] : [indices[pixel]!, known.indexBits];
    const [alphaIndex, alphaBits] =
      two && selection === 0 ? [second[pixel]!, known.secondBits] : [indices[pixel]!, known.indexBits];
    const colourWeight = WEIGHTS[colourBits]![colourIndex]!;
    const alphaWeight = WEIGHTS[alphaBits]![alphaIndex]!;
    for (let channel = 0; channel < 4; channel++)
      out[pixel * 4 + channel] = between(
        ends[subset * 8 + channel]!,
        ends[subset * 8 + 4 + channel]!,
        channel === 3 ? alphaWeight : colourWeight,
      );
    if (rotation > 0) swap(out, pixel * 4 + 3, pixel * 4 + rotation - 1);
  }
}

const between = (a: number, b: number, weight: number) => ((64 - weight) * a + weight * b + 32) >> 6;

function swap(out: Uint8Array, a: number, b: number): void {
  const kept = out[a]!;
  out[a] = out[b]!;
  out[b] = kept;
}

function takeEnds(bits: BlockBits, { subsets, colourBits, alphaBits, sharedBits }: Mode): void {
  for (let channel = 0; channel < 4; channel++) {
    const width = channel === 3 ? alphaBits : colourBits;
    for (let end = 0; end < subsets * 2; end++) ends[end * 4 + channel] = width === 0 ? 255 : bits.take(width);
  }
  const extra = sharedBits === undefined ? 0 : 1;
  let shared = 0;
  for (let end = 0; end < subsets * 2; end++) {
    if (sharedBits === 'each' || (sharedBits === 'subset' && end % 2 === 0)) shared = bits.take(1);
    for (let channel = 0; channel < 4; channel++) {
      const width = channel === 3 ? alphaBits : colourBits;
      if (width === 0) continue;
      const whole = width + extra;
      const value = extra === 1 ? (ends[end * 4 + channel]! << 1) | shared : ends[end * 4 + channel]!;
      // The highest bits are repeated below.
      ends[end * 4 + channel] = (value << (8 - whole)) | (value >> (2 * whole - 8));
    }
  }
}

function takeIndices(bits: BlockBits, subsets: number, partition: number, width: number, into: Uint8Array): void {
  for (let pixel = 0; pixel < 16; pixel++)
    into[pixel] = bits.take(isAnchor(subsets, partition, pixel) ? width - 1 : width);
}
