/** What the models wear: colours, normals with the roughness in their alpha, and a mask that says where paint goes. */
import sharp from 'sharp';
import type { Pixels } from '../archives/block-packing';
import type { ArchiveEntry } from '../archives/entry';
import { writeTexture } from '../archives/tex';
import { LIVERY_COLOURS } from './pictures';
import { randomFor, type Random } from './random';

const SIDE = 256;
/** The mips of 256 and 128 are streamed. */
const FAR = 2;

const WEARERS = { cabin: LIVERY_COLOURS.red, crane: LIVERY_COLOURS.gold, post_box: LIVERY_COLOURS.blue } as const;

export async function textures(): Promise<ArchiveEntry[]> {
  const made = Object.entries(WEARERS).map(async ([model, colour]) => {
    const path = `models/${model}/${model}`;
    const colours = await chain(await draw(colourDrawing(colour, randomFor(`${path} colour`))));
    const heights = await draw(rivetDrawing(randomFor(`${path} normal`)));
    return [
      ...writeTexture({ path: `${path}_colour`, format: 'bc1', srgb: true, mips: colours, far: FAR }),
      ...writeTexture({
        path: `${path}_normal`,
        format: 'bc3',
        srgb: false,
        mips: await chain(normals(heights)),
        far: FAR,
      }),
    ];
  });
  const mask = await chain(await draw(paintDrawing(), 64));
  const paint = writeTexture({ path: 'models/cabin/cabin_paint', format: 'rgba8', srgb: false, mips: mask, far: 0 });
  return [...(await Promise.all(made)).flat(), ...paint];
}

function colourDrawing(colour: string, random: Random): string {
  const scratches = Array.from(
    { length: 60 },
    () =>
      `<path d="M${random.whole(0, SIDE)} ${random.whole(0, SIDE)} l${random.whole(-30, 30)} ${random.whole(-8, 8)}" stroke="#ffffff" stroke-opacity="0.${random.whole(10, 35)}"/>`,
  ).join('');
  return `<rect width="256" height="256" fill="${colour}"/><rect y="150" width="256" height="34" fill="#f2e6cf"/>
    <rect x="24" y="24" width="78" height="78" rx="8" fill="#dfece9"/><path d="M0 0h256v10H0zM0 246h256v10H0z" fill="#1f2b2a"/>${scratches}`;
}

/** Heights in grey: sheets of metal with rivets along their edges. */
function rivetDrawing(random: Random): string {
  const rivets = Array.from({ length: 48 }, (_, i) => {
    const along = (i % 12) * 21 + 12;
    const at = [`cx="${along}" cy="12"`, `cx="${along}" cy="244"`, `cx="12" cy="${along}"`, `cx="244" cy="${along}"`];
    return `<circle ${at[i % 4]!} r="${random.whole(4, 6)}" fill="#d0d0d0"/>`;
  }).join('');
  return `<rect width="256" height="256" fill="#808080"/><path d="M128 0v256M0 128h256" stroke="#505050" stroke-width="4"/>${rivets}`;
}

/** Red where the livery is painted, green where the stripe goes. */
const paintDrawing = () =>
  '<rect width="256" height="256" fill="#000000"/><rect y="12" width="256" height="232" fill="#ff0000"/><rect y="150" width="256" height="34" fill="#00ff00"/>';

async function draw(drawing: string, side = SIDE): Promise<Pixels> {
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${side}" height="${side}" viewBox="0 0 256 256">${drawing}</svg>`;
  return { width: side, height: side, bytes: await sharp(Buffer.from(svg)).ensureAlpha().raw().toBuffer() };
}

/** Slopes of a height picture as x, y, z in red, green and blue; smooth metal where it is high, in alpha. */
function normals({ width, height, bytes }: Pixels): Pixels {
  const out = Buffer.alloc(width * height * 4);
  const at = (x: number, y: number) => bytes[(((y + height) % height) * width + ((x + width) % width)) * 4]! / 255;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const slope = [(at(x - 1, y) - at(x + 1, y)) * 2, (at(x, y - 1) - at(x, y + 1)) * 2, 1];
      const length = Math.hypot(...slope);
      const rough = 200 - at(x, y) * 120;
      for (const [channel, value] of slope.entries())
        out[(y * width + x) * 4 + channel] = Math.round((value / length) * 127 + 128);
      out[(y * width + x) * 4 + 3] = Math.round(rough);
    }
  }
  return { width, height, bytes: out };
}

/** The picture and its halves down to a single pixel. */
async function chain(full: Pixels): Promise<Pixels[]> {
  const mips = [full];
  const raw = { width: full.width, height: full.height, channels: 4 as const };
  for (let side = full.width / 2; side >= 1; side /= 2) {
    const bytes = await sharp(full.bytes, { raw }).resize(side, side, { kernel: 'mitchell' }).raw().toBuffer();
    mips.push({ width: side, height: side, bytes });
  }
  return mips;
}
