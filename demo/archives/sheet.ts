/** Writes a sheet: several small pictures in one, each with its name and place, as interfaces draw from. */
import { packBc3, type Pixels } from './block-packing';
import { ByteBuilder } from './byte-builder';
import type { ArchiveEntry } from './entry';

export interface SheetPart {
  readonly name: string;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** @param mips the picture and its halves, packed as BC3 in sRGB */
export function writeSheet(path: string, parts: readonly SheetPart[], mips: readonly Pixels[]): ArchiveEntry {
  const largest = mips[0]!;
  const out = new ByteBuilder()
    .text('GPSH')
    .u16(1) // version
    .u8(3) // BC3
    .u8(1) // sRGB
    .u16(largest.width)
    .u16(largest.height)
    .u8(mips.length)
    .u8(0) // spare
    .u16(parts.length);
  for (const { name, x, y, width, height } of parts) out.text8(name).u16(x).u16(y).u16(width).u16(height);
  out.align(16);
  for (const mip of mips) out.raw(packBc3(mip));
  return { path, bytes: out.bytes() };
}
