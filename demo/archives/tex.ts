/**
 * Writes a texture: `.tex` with a header and the small mips, which the game always loads, and next to it `.texfar` with the
 * large ones, which it streams when the camera is near. The header names the sibling.
 */
import { crc32 } from '@node-rs/crc32';
import { packBc1, packBc3, type Pixels } from './block-packing';
import { ByteBuilder } from './byte-builder';
import type { ArchiveEntry } from './entry';

/** How the pixels lie in the file; the number is in the header. */
const FORMATS = {
  rgba8: { number: 0, pack: ({ bytes }: Pixels) => Buffer.from(bytes) },
  bc1: { number: 1, pack: packBc1 },
  bc3: { number: 3, pack: packBc3 },
} as const;
export type TexFormat = keyof typeof FORMATS;

export interface Texture {
  /** Without its ending. */
  readonly path: string;
  readonly format: TexFormat;
  /** Colours are sRGB; normals and masks are plain numbers. */
  readonly srgb: boolean;
  /** The whole chain, the largest first, down to 1 × 1. */
  readonly mips: readonly Pixels[];
  /** How many of the largest mips lie in the sibling. */
  readonly far: number;
}

export function writeTexture({ path, format, srgb, mips, far }: Texture): ArchiveEntry[] {
  const { number, pack } = FORMATS[format];
  const packed = mips.map(pack);
  const sibling = far === 0 ? '' : `${path}.texfar`;
  const largest = mips[0]!;
  const farBytes = Buffer.concat(packed.slice(0, far));
  const near = new ByteBuilder()
    .text('GPTX')
    .u16(2) // version
    .u8(number)
    .u8(srgb ? 1 : 0)
    .u16(largest.width)
    .u16(largest.height)
    .u8(mips.length)
    .u8(far)
    .u16(0) // spare
    .u32(farBytes.length)
    .u32(crc32(farBytes))
    .text8(sibling)
    .align(16);
  for (const bytes of packed.slice(far)) near.raw(bytes).align(16);
  const entries = [{ path: `${path}.tex`, bytes: near.bytes() }];
  if (far === 0) return entries;
  const high = new ByteBuilder()
    .text('GPTF')
    .u16(2)
    .u8(number)
    .u8(far)
    .u32(farBytes.length)
    .u32(0) // spare
    .raw(farBytes);
  return [...entries, { path: sibling, bytes: high.bytes() }];
}
