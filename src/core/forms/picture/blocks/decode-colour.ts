/**
 * Decoding of BC1 to BC5 as the Khronos Data Format Specification 1.3, chapters 18 (S3TC) and 19 (RGTC), describes them. Each
 * function unpacks one block of 4 × 4 pixels.
 */

/** Colours of a block, as four of red, green, blue, alpha. */
const palette = new Uint8Array(16);

/**
 * BC1: eight bytes.
 *
 * @param out RGBA of 16 pixels, row by row
 * @param fourColours true inside BC2 and BC3, where there is no transparent colour
 */
export function decodeBc1(bytes: Uint8Array, at: number, out: Uint8Array, fourColours = false): void {
  const first = bytes[at]! | (bytes[at + 1]! << 8);
  const second = bytes[at + 2]! | (bytes[at + 3]! << 8);
  expand565(first, palette, 0);
  expand565(second, palette, 4);
  const four = fourColours || first > second;
  for (let channel = 0; channel < 3; channel++) {
    const a = palette[channel]!;
    const b = palette[4 + channel]!;
    palette[8 + channel] = four ? (2 * a + b + 1) / 3 : (a + b) >> 1;
    palette[12 + channel] = four ? (a + 2 * b + 1) / 3 : 0;
  }
  palette[3] = palette[7] = palette[11] = 255;
  palette[15] = four ? 255 : 0;
  for (let row = 0; row < 4; row++) {
    const indices = bytes[at + 4 + row]!;
    for (let x = 0; x < 4; x++) {
      const colour = ((indices >> (x * 2)) & 3) * 4;
      const pixel = (row * 4 + x) * 4;
      out[pixel] = palette[colour]!;
      out[pixel + 1] = palette[colour + 1]!;
      out[pixel + 2] = palette[colour + 2]!;
      out[pixel + 3] = palette[colour + 3]!;
    }
  }
}

/** BC2: alpha of four bits a pixel, then colours; 16 bytes. */
export function decodeBc2(bytes: Uint8Array, at: number, out: Uint8Array): void {
  decodeBc1(bytes, at + 8, out, true);
  for (let i = 0; i < 16; i++) {
    const nibble = (bytes[at + (i >> 1)]! >> ((i & 1) * 4)) & 15;
    out[i * 4 + 3] = nibble * 17;
  }
}

/** BC3: alpha as in BC4, then colours; 16 bytes. */
export function decodeBc3(bytes: Uint8Array, at: number, out: Uint8Array): void {
  decodeBc1(bytes, at + 8, out, true);
  decodeChannel(bytes, at, out, 3);
}

/** BC4: red alone; 8 bytes. Green and blue are 0. */
export function decodeBc4(bytes: Uint8Array, at: number, out: Uint8Array): void {
  blank(out);
  decodeChannel(bytes, at, out, 0);
}

/** BC5: red and green; 16 bytes. Blue is 0. */
export function decodeBc5(bytes: Uint8Array, at: number, out: Uint8Array): void {
  blank(out);
  decodeChannel(bytes, at, out, 0);
  decodeChannel(bytes, at + 8, out, 1);
}

const levels = new Uint8Array(8);

/** The values a block of one channel chooses among: the two ends and what lies between, or also 0 and 255. */
export function channelLevels(first: number, second: number, into: Uint8Array): void {
  into[0] = first;
  into[1] = second;
  const steps = first > second ? 7 : 5;
  for (let i = 1; i < steps; i++) into[i + 1] = ((steps - i) * first + i * second + (steps >> 1)) / steps;
  if (steps === 5) {
    into[6] = 0;
    into[7] = 255;
  }
}

/** One channel of a block: two ends and an index of three bits for each pixel. */
function decodeChannel(bytes: Uint8Array, at: number, out: Uint8Array, channel: number): void {
  channelLevels(bytes[at]!, bytes[at + 1]!, levels);
  for (let half = 0; half < 2; half++) {
    const from = at + 2 + half * 3;
    const bits = bytes[from]! | (bytes[from + 1]! << 8) | (bytes[from + 2]! << 16);
    for (let i = 0; i < 8; i++) out[(half * 8 + i) * 4 + channel] = levels[(bits >> (i * 3)) & 7]!;
  }
}

function blank(out: Uint8Array): void {
  for (let i = 0; i < 64; i++) out[i] = (i & 3) === 3 ? 255 : 0;
}

/** Five, six and five bits as bytes: the highest bits are repeated below. */
export function expand565(colour: number, into: Uint8Array, at: number): void {
  const red = colour >> 11;
  const green = (colour >> 5) & 63;
  const blue = colour & 31;
  into[at] = (red << 3) | (red >> 2);
  into[at + 1] = (green << 2) | (green >> 4);
  into[at + 2] = (blue << 3) | (blue >> 2);
}
