/** The signs of the stations, drawn on one sheet. */
import sharp from 'sharp';
import type { Pixels } from '../archives/block-packing';
import type { ArchiveEntry } from '../archives/entry';
import { writeSheet, type SheetPart } from '../archives/sheet';
import { LIVERY_COLOURS } from './pictures';

const SIDE = 256;
const MIPS = 3;

const NAMES = ['open', 'closed', 'letters', 'parcels', 'lost_things', 'waiting_room', 'wind', 'snow', 'stairs'];

/** Nine of one size, then some that are narrow: in the smaller mips these share blocks with their neighbours. */
const PARTS: readonly SheetPart[] = [
  ...NAMES.map((name, i): SheetPart => ({ name, x: (i % 3) * 64, y: Math.floor(i / 3) * 64, width: 64, height: 64 })),
  { name: 'arrow_up', x: 192, y: 0, width: 40, height: 24 },
  { name: 'arrow_down', x: 232, y: 0, width: 24, height: 24 },
  { name: 'banner', x: 0, y: 192, width: 256, height: 64 },
];

export async function signs(): Promise<ArchiveEntry> {
  const colours = Object.values(LIVERY_COLOURS);
  const drawing = PARTS.map(({ x, y, width, height }, i) => {
    const colour = colours[i % colours.length]!;
    const [middle, centre] = [x + width / 2, y + height / 2];
    const inner = Math.min(width, height) / 4;
    const mark =
      i % 2 === 0
        ? `<circle cx="${middle}" cy="${centre}" r="${inner}" fill="#f2e6cf"/>`
        : `<path d="M${middle - inner} ${centre + inner} L${middle} ${centre - inner} L${middle + inner} ${centre + inner} z" fill="#f2e6cf"/>`;
    return `<rect x="${x + 2}" y="${y + 2}" width="${width - 4}" height="${height - 4}" rx="6" fill="${colour}"/>${mark}`;
  }).join('');
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${SIDE}" height="${SIDE}">${drawing}</svg>`;
  const full = await sharp(Buffer.from(svg)).ensureAlpha().raw().toBuffer();
  const mips: Pixels[] = [{ width: SIDE, height: SIDE, bytes: full }];
  for (let mip = 1; mip < MIPS; mip++) {
    const side = SIDE >> mip;
    const bytes = await sharp(full, { raw: { width: SIDE, height: SIDE, channels: 4 } })
      .resize(side, side, { kernel: 'mitchell' })
      .raw()
      .toBuffer();
    mips.push({ width: side, height: side, bytes });
  }
  return writeSheet('ui/signs.sheet', PARTS, mips);
}
