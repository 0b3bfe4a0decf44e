/** Reads a sheet of small pictures: its parts lie in it, start where blocks do, and do not overlap. */
import { PACKINGS, type Texture } from './tex-reader';
import { Walk } from './walk';

/** A sheet has the picture and two halves. */
const MIPS = 3;

/** @throws LoadStop */
export function readSheet(file: string, path: string, bytes: Buffer): Texture {
  const walk = new Walk(file, 'SHEET', bytes, 'little', path);
  walk.magic('GPSH');
  walk.is('VERSION', 1, walk.u16(), 4, 'A sheet is of version 1.');
  const packing = PACKINGS[walk.u8()] ?? walk.stop('FORMAT', 6, 'Pixels are plain, BC1 or BC3.', bytes[6]);
  walk.is('FLAGS', 1, walk.u8(), 7, 'Sheets are colours in sRGB.');
  const [width, height] = [walk.u16(), walk.u16()];
  if (width % 16 !== 0 || height % 16 !== 0) walk.stop('SIDE', 8, 'Sides are multiples of 16.', `${width} × ${height}`);
  walk.is('MIPS', MIPS, walk.u8(), 12, `A sheet has ${MIPS} mips.`);
  walk.zeros(1);
  const count = walk.u16();
  const taken = new Set<string>();
  const names = new Set<string>();
  for (let i = 0; i < count; i++) {
    const at = walk.at;
    const name = walk.text8();
    if (name === '' || names.has(name)) walk.stop('NAME', at, 'Every part has a name of its own.', name);
    names.add(name);
    const [x, y, w, h] = [walk.u16(), walk.u16(), walk.u16(), walk.u16()];
    if (w === 0 || h === 0 || x + w > width || y + h > height || x % 4 !== 0 || y % 4 !== 0)
      walk.stop('PART', at, 'A part lies in the sheet and starts at a multiple of 4.', `${x}, ${y}, ${w} × ${h}`);
    for (let row = y >> 2; row < (y + h) >> 2; row++)
      for (let column = x >> 2; column < (x + w) >> 2; column++) {
        const place = `${column},${row}`;
        if (taken.has(place)) walk.stop('OVERLAP', at, 'Parts do not overlap.', name);
        taken.add(place);
      }
  }
  walk.zeros((16 - (walk.at % 16)) % 16);
  let pixels: Buffer | undefined;
  for (let mip = 0; mip < MIPS; mip++) {
    const blocks = (side: number) => Math.ceil((side >> mip) / packing.side);
    const level = walk.take(blocks(width) * blocks(height) * packing.bytes);
    pixels ??= level;
  }
  walk.ended();
  return { width, height, packing, pixels: pixels! };
}
