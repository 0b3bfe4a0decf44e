/** Tables of BPTC (BC6H and BC7): Khronos Data Format Specification 1.3, chapter 20. */

/** Which of two subsets a pixel belongs to: bit `i` of a number for pixel `i`. */
export const TWO_SUBSETS: readonly number[] = [
  ...[0xcccc, 0x8888, 0xeeee, 0xecc8, 0xc880, 0xfeec, 0xfec8, 0xec80, 0xc800, 0xffec, 0xfe80, 0xe800, 0xffe8, 0xff00],
  ...[0xfff0, 0xf000, 0xf710, 0x008e, 0x7100, 0x08ce, 0x008c, 0x7310, 0x3100, 0x8cce, 0x088c, 0x3110, 0x6666, 0x366c],
  ...[0x17e8, 0x0ff0, 0x718e, 0x399c, 0xaaaa, 0xf0f0, 0x5a5a, 0x33cc, 0x3c3c, 0x55aa, 0x9696, 0xa55a, 0x73ce, 0x13c8],
  ...[0x324c, 0x3bdc, 0x6996, 0xc33c, 0x9966, 0x0660, 0x0272, 0x04e4, 0x4e40, 0x2720, 0xc936, 0x936c, 0x39c6, 0x639c],
  ...[0x9336, 0x9cc6, 0x817e, 0xe718, 0xccf0, 0x0fcc, 0x7744, 0xee22],
];

/** Which of three: two bits of a number for each pixel. */
export const THREE_SUBSETS: readonly number[] = [
  ...[0xaa685050, 0x6a5a5040, 0x5a5a4200, 0x5450a0a8, 0xa5a50000, 0xa0a05050, 0x5555a0a0, 0x5a5a5050, 0xaa550000],
  ...[0xaa555500, 0xaaaa5500, 0x90909090, 0x94949494, 0xa4a4a4a4, 0xa9a59450, 0x2a0a4250, 0xa5945040, 0x0a425054],
  ...[0xa5a5a500, 0x55a0a0a0, 0xa8a85454, 0x6a6a4040, 0xa4a45000, 0x1a1a0500, 0x0050a4a4, 0xaaa59090, 0x14696914],
  ...[0x69691400, 0xa08585a0, 0xaa821414, 0x50a4a450, 0x6a5a0200, 0xa9a58000, 0x5090a0a8, 0xa8a09050, 0x24242424],
  ...[0x00aa5500, 0x24924924, 0x24499224, 0x50a50a50, 0x500aa550, 0xaaaa4444, 0x66660000, 0xa5a0a5a0, 0x50a050a0],
  ...[0x69286928, 0x44aaaa44, 0x66666600, 0xaa444444, 0x54a854a8, 0x95809580, 0x96969600, 0xa85454a8, 0x80959580],
  ...[0xaa141414, 0x96960000, 0xaaaa1414, 0xa05050a0, 0xa0a5a5a0, 0x96000000, 0x40804080, 0xa9a8a9a8, 0xaaaaaa44],
  0x2a4a5254,
];

/** The pixel of the second of two subsets whose index has one bit less. */
export const ANCHOR_TWO: readonly number[] = [
  ...[15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 2, 8, 2, 2, 8, 8, 15, 2, 8, 2, 2, 8, 8, 2, 2],
  ...[15, 15, 6, 8, 2, 8, 15, 15, 2, 8, 2, 2, 2, 15, 15, 6, 6, 2, 6, 8, 15, 15, 2, 2, 15, 15, 15, 15, 15, 2, 2, 15],
];
/** The same of the second and third of three. */
export const ANCHOR_THREE: readonly (readonly number[])[] = [
  [
    ...[3, 3, 15, 15, 8, 3, 15, 15, 8, 8, 6, 6, 6, 5, 3, 3, 3, 3, 8, 15, 3, 3, 6, 10, 5, 8, 8, 6, 8, 5, 15, 15],
    ...[8, 15, 3, 5, 6, 10, 8, 15, 15, 3, 15, 5, 15, 15, 15, 15, 3, 15, 5, 5, 5, 8, 5, 10, 5, 10, 8, 13, 15, 12, 3, 3],
  ],
  [
    ...[15, 8, 8, 3, 15, 15, 3, 8, 15, 15, 15, 15, 15, 15, 15, 8, 15, 8, 15, 3, 15, 8, 15, 8, 3, 15, 6, 10, 15, 15],
    ...[10, 8, 15, 3, 15, 10, 10, 8, 9, 10, 6, 15, 8, 15, 3, 6, 6, 8, 15, 3, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15],
    ...[3, 15, 15, 8],
  ],
];

/** Weights of 64 between two ends, by the bits of an index. */
export const WEIGHTS: Readonly<Record<number, readonly number[]>> = {
  2: [0, 21, 43, 64],
  3: [0, 9, 18, 27, 37, 46, 55, 64],
  4: [0, 4, 9, 13, 17, 21, 26, 30, 34, 38, 43, 47, 51, 55, 60, 64],
};

/** The subset of a pixel. */
export function subsetOf(subsets: number, partition: number, pixel: number): number {
  if (subsets === 1) return 0;
  if (subsets === 2) return (TWO_SUBSETS[partition]! >> pixel) & 1;
  return (THREE_SUBSETS[partition]! >>> (pixel * 2)) & 3;
}

/** Whether the index of a pixel has one bit less: the first of each subset. */
export function isAnchor(subsets: number, partition: number, pixel: number): boolean {
  if (pixel === 0) return true;
  if (subsets === 2) return ANCHOR_TWO[partition] === pixel;
  return subsets === 3 && (ANCHOR_THREE[0]![partition] === pixel || ANCHOR_THREE[1]![partition] === pixel);
}

/** Bits of a block of 16 bytes, from the lowest. */
export class BlockBits {
  private at = 0;
  constructor(
    private readonly bytes: Uint8Array,
    private readonly from: number,
  ) {}

  take(count: number): number {
    let value = 0;
    for (let i = 0; i < count; i++, this.at++)
      value |= ((this.bytes[this.from + (this.at >> 3)]! >> (this.at & 7)) & 1) << i;
    return value;
  }
}
