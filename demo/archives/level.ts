/**
 * Writes a `.lvl` blob: no table says where anything is; the game walks through it, and each part says where it ends.
 *
 * Head (16 bytes), heights (side² × u16), pictures (PNG, one after the other), the route (a zlib stream), the wind (WAVE).
 */
import { deflateSync } from 'node:zlib';
import { ByteBuilder } from './byte-builder';

export interface Level {
  readonly side: number;
  readonly heights: Uint16Array;
  readonly pictures: readonly Buffer[];
  readonly route: string;
  readonly wind: Buffer;
}

export function writeLevel({ side, heights, pictures, route, wind }: Level): Uint8Array {
  const out = new ByteBuilder().text('VL').u8(1).u8(0).u16(side).u16(pictures.length).fill(8);
  for (const height of heights) out.u16(height);
  for (const picture of pictures) out.raw(picture);
  return out
    .raw(deflateSync(Buffer.from(route), { level: 9 }))
    .raw(wind)
    .bytes();
}
