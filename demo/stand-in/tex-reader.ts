/** Reads a texture as strictly as a graphics card would: format, sides, the whole chain of mips, and its far sibling. */
import { crc32 } from './crc';
import { Walk } from './walk';

/** The largest mip, as the graphics card is given it. */
export interface Texture {
  readonly width: number;
  readonly height: number;
  readonly packing: Packing;
  readonly pixels: Buffer;
}

export interface Packing {
  readonly name: string;
  /** Pixels along a side of a block. */
  readonly side: number;
  readonly bytes: number;
}

export const PACKINGS: Readonly<Record<number, Packing>> = {
  0: { name: 'plain', side: 1, bytes: 4 },
  1: { name: 'BC1', side: 4, bytes: 8 },
  3: { name: 'BC3', side: 4, bytes: 16 },
};

/** What a name demands of its texture. */
const ROLES: readonly [ending: string, blocks: readonly string[], srgb: boolean, rule: string][] = [
  ['_colour.tex', ['BC1', 'BC3'], true, 'Colours are BC1 or BC3, in sRGB.'],
  ['_normal.tex', ['BC3'], false, 'Normals are BC3, with plain numbers.'],
  ['_paint.tex', ['plain'], false, 'Paint masks are not packed, with plain numbers.'],
];

/** @param sibling finds the entry that the header names. @throws LoadStop */
export function readTexture(
  file: string,
  path: string,
  bytes: Buffer,
  sibling: (path: string) => Buffer | undefined,
): Texture {
  const walk = new Walk(file, 'TEX', bytes, 'little', path);
  walk.magic('GPTX');
  walk.is('VERSION', 2, walk.u16(), 4, 'A texture is of version 2.');
  const packing = PACKINGS[walk.u8()] ?? walk.stop('FORMAT', 6, 'Pixels are plain, BC1 or BC3.', bytes[6]);
  const flags = walk.u8();
  if (flags > 1) walk.stop('FLAGS', 7, 'Only the flag of sRGB is known.', flags);
  const [width, height] = [walk.u16(), walk.u16()];
  for (const [i, side] of [width, height].entries())
    if (side === 0 || side > 4096 || (side & (side - 1)) !== 0)
      walk.stop('SIDE', 8 + i * 2, 'Sides are powers of two, up to 4096.', side);
  const whole = Math.log2(Math.max(width, height)) + 1;
  const mips = walk.u8();
  walk.is('MIPS', whole, mips, 12, `A texture of ${width} × ${height} has ${whole} mips, down to one pixel.`);
  const far = walk.u8();
  if (far >= mips) walk.stop('FAR', 13, 'At least the smallest mip is near.', far);
  walk.zeros(2);
  const [farSize, farCrc] = [walk.u32(), walk.u32()];
  const at = walk.at;
  const name = walk.text8();
  if (far > 0 !== (name !== '')) walk.stop('SIBLING', at, 'What lies far has a sibling, and nothing else has.', name);
  walk.zeros((16 - (walk.at % 16)) % 16);
  const sizeOf = (mip: number) => {
    const blocks = (side: number) => Math.ceil(Math.max(side >> mip, 1) / packing.side);
    return blocks(width) * blocks(height) * packing.bytes;
  };
  let pixels: Buffer | undefined;
  for (let mip = far; mip < mips; mip++) {
    const taken = walk.take(sizeOf(mip));
    pixels ??= taken;
    walk.zeros((16 - (walk.at % 16)) % 16);
  }
  walk.ended();
  checkRole(walk, path, packing.name, flags === 1);
  if (far > 0) {
    const high = sibling(name) ?? walk.stop('SIBLING', at, 'The sibling is there.', `no ${name}`);
    const size = Array.from({ length: far }, (_, mip) => sizeOf(mip)).reduce((sum, one) => sum + one, 0);
    walk.is('FAR-SIZE', size, farSize, 16, `The far mips take ${size} bytes.`);
    const all = checkFar(new Walk(file, 'TEX', high, 'little', name), { format: bytes[6]!, far, size, crc: farCrc });
    pixels = all.subarray(0, sizeOf(0));
  }
  return { width, height, packing, pixels: pixels! };
}

function checkRole(walk: Walk, path: string, blocks: string, srgb: boolean): void {
  const role = ROLES.find(([ending]) => path.endsWith(ending));
  if (role === undefined) return;
  const [, allowed, wanted, rule] = role;
  if (!allowed.includes(blocks)) walk.stop('FORMAT', 6, rule, blocks);
  walk.is('FLAGS', wanted, srgb, 7, rule);
}

function checkFar(walk: Walk, near: { format: number; far: number; size: number; crc: number }): Buffer {
  walk.magic('GPTF');
  walk.is('VERSION', 2, walk.u16(), 4, 'A far texture is of version 2.');
  walk.is('FAR-FORMAT', near.format, walk.u8(), 6, 'Near and far mips have one format.');
  walk.is('FAR', near.far, walk.u8(), 7, 'As many mips as the near half says.');
  walk.is('FAR-SIZE', near.size, walk.u32(), 8, `The far mips take ${near.size} bytes.`);
  walk.zeros(4);
  const pixels = walk.take(near.size);
  walk.is('FAR-CRC', near.crc, crc32(pixels), 16, 'The checksum in the near half is that of the far mips.');
  walk.ended();
  return pixels;
}
