/** Drawn pictures: cabins, frames, interiors, stations and icons, as vector drawings rendered to PNG. */
import sharp from 'sharp';
import type { Random } from './random';

export const LIVERY_COLOURS = {
  blue: '#3d5a80',
  moss: '#5b6b1a',
  ochre: '#a9741c',
  ice: '#9db9c9',
  plum: '#6b3f73',
  coal: '#2a2f2e',
  red: '#a23b2c',
  sky: '#79a3c9',
  fir: '#2f5d46',
  gold: '#c79f3a',
  wool: '#cfc4ab',
  rust: '#8a4b2a',
} as const;

const ink = '#1f2b2a';
const glass = '#dfece9';

/** A cabin seen from the side, 256 × 256, see-through around it. */
export function cabin(colour: string, random: Random, snow: boolean): Promise<Buffer> {
  const stripe =
    random.next() < 0.6
      ? `<rect x="40" y="${random.whole(166, 186)}" width="176" height="${random.whole(6, 18)}" fill="#f2e6cf"/>`
      : '';
  const roof = snow ? '<path d="M36 84 q22 -22 46 -6 q20 -18 46 -2 q28 -18 48 0 q24 -12 44 10 z" fill="#f7fafa"/>' : '';
  return render(
    256,
    256,
    `
    <rect x="120" y="18" width="16" height="66" fill="${ink}"/>
    <rect x="100" y="10" width="56" height="12" rx="5" fill="${ink}"/>
    <rect x="36" y="76" width="184" height="150" rx="26" fill="${colour}"/>
    ${stripe}
    <rect x="54" y="100" width="66" height="52" rx="9" fill="${glass}"/>
    <rect x="136" y="100" width="66" height="52" rx="9" fill="${glass}"/>
    <circle cx="${random.whole(60, 196)}" cy="206" r="5" fill="#f2e6cf"/>
    ${roof}`,
  );
}

/** A steel frame of a cabin, 256 × 256. */
export function frame(random: Random): Promise<Buffer> {
  const bars = Array.from({ length: random.whole(3, 8) }, (_, i) => {
    const x = 48 + i * 22 + random.whole(-4, 4);
    return `<path d="M${x} 72 L${x + random.whole(-18, 18)} 226" stroke="#63706d" stroke-width="${random.whole(4, 9)}"/>`;
  }).join('');
  return render(
    256,
    256,
    `<rect x="40" y="72" width="176" height="154" rx="20" fill="none" stroke="${ink}" stroke-width="10"/>${bars}`,
  );
}

/** Seats behind a window, 256 × 192. */
export function interior(random: Random): Promise<Buffer> {
  const cloth = random.pick(Object.values(LIVERY_COLOURS));
  const seats = Array.from(
    { length: random.whole(2, 5) },
    (_, i) =>
      `<rect x="${18 + i * 46}" y="104" width="38" height="62" rx="8" fill="${cloth}"/><rect x="${18 + i * 46}" y="150" width="38" height="14" rx="5" fill="${ink}"/>`,
  ).join('');
  return render(
    256,
    192,
    `<rect width="256" height="192" fill="#efe9dc"/><rect x="16" y="16" width="224" height="70" rx="10" fill="${glass}"/>${seats}`,
  );
}

/** A station in its valley, 320 × 200, no transparency. */
export function station(random: Random): Promise<Buffer> {
  const peaks = Array.from({ length: random.whole(2, 4) }, (_, i) => {
    const x = i * 90 + random.whole(-20, 40);
    return `<path d="M${x - 110} 200 L${x} ${random.whole(40, 96)} L${x + 120} 200 z" fill="${random.pick(['#8fa9a2', '#7d978f', '#a3b8b1'])}"/>`;
  }).join('');
  const wall = random.pick(['#b98f5e', '#a23b2c', '#5e6b1e', '#3e5a78']);
  const x = random.whole(60, 180);
  return render(
    320,
    200,
    `<rect width="320" height="200" fill="#cfdde2"/>${peaks}
    <path d="M0 ${random.whole(30, 60)} L320 ${random.whole(70, 110)}" stroke="${ink}" stroke-width="3"/>
    <rect x="${x}" y="120" width="88" height="80" fill="${wall}"/><path d="M${x - 12} 122 L${x + 44} 84 L${x + 100} 122 z" fill="${ink}"/>
    <rect x="${x + 34}" y="154" width="22" height="46" fill="#f2e6cf"/>`,
  );
}

/** A small sign, 64 × 64. */
export function icon(random: Random): Promise<Buffer> {
  const colour = random.pick(Object.values(LIVERY_COLOURS));
  const shapes = [
    `<circle cx="32" cy="32" r="${random.whole(14, 24)}" fill="${colour}"/>`,
    `<rect x="12" y="16" width="40" height="32" rx="${random.whole(2, 12)}" fill="${colour}"/>`,
    `<path d="M32 10 L54 52 L10 52 z" fill="${colour}"/>`,
    `<path d="M12 40 L32 14 L52 40 L40 40 L40 54 L24 54 L24 40 z" fill="${colour}"/>`,
  ];
  return render(
    64,
    64,
    `${random.pick(shapes)}<circle cx="${random.whole(22, 42)}" cy="${random.whole(24, 42)}" r="5" fill="#f7f3ea"/>`,
  );
}

/** A tile of the map, 64 × 64, seen from above. */
export function mapTile(level: number, random: Random): Promise<Buffer> {
  const ground = ['#6f8d5a', '#8b8f78', '#cfd6d4'][level]!;
  const patches = Array.from(
    { length: random.whole(3, 7) },
    () =>
      `<ellipse cx="${random.whole(0, 64)}" cy="${random.whole(0, 64)}" rx="${random.whole(4, 20)}" ry="${random.whole(4, 20)}" fill="${random.pick(['#587246', '#7d8469', '#b9c2c0', '#9fb0a6'])}"/>`,
  ).join('');
  return render(64, 64, `<rect width="64" height="64" fill="${ground}"/>${patches}`);
}

/** Worn boards, 128 × 128, no transparency. */
export function plank(random: Random): Promise<Buffer> {
  const wood = random.pick(['#a9835a', '#8a6b4a', '#6b5a48', '#b59a74']);
  const grain = Array.from(
    { length: 420 },
    () =>
      `<path d="M${random.whole(0, 128)} ${random.whole(0, 128)} h${random.whole(3, 30)}" stroke="${random.pick(['#00000033', '#ffffff22', '#00000022'])}" stroke-width="${random.whole(1, 2)}"/>`,
  ).join('');
  return render(128, 128, `<rect width="128" height="128" fill="${wood}"/>${grain}`);
}

/** A frame of the film: a cabin crosses the valley. @param part how much of the way it has gone, 0 to 1 */
export function filmFrame(width: number, height: number, part: number): Promise<Buffer> {
  const x = Math.round(part * (width + 80)) - 60;
  const y = Math.round(height * 0.42 + part * 30);
  return render(
    width,
    height,
    `<rect width="${width}" height="${height}" fill="#cfdde2"/>
    <path d="M0 ${height} L90 60 L170 ${height} z M120 ${height} L230 80 L${width} ${height} z" fill="#8fa9a2"/>
    <path d="M0 ${height * 0.3} L${width} ${height * 0.3 + 34}" stroke="${ink}" stroke-width="3"/>
    <rect x="${x}" y="${y}" width="60" height="44" rx="9" fill="${LIVERY_COLOURS.red}"/>
    <rect x="${x + 7}" y="${y + 9}" width="20" height="15" rx="3" fill="${glass}"/><rect x="${x + 33}" y="${y + 9}" width="20" height="15" rx="3" fill="${glass}"/>`,
  );
}

function render(width: number, height: number, drawing: string): Promise<Buffer> {
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">${drawing}</svg>`;
  return sharp(Buffer.from(svg)).ensureAlpha().png({ compressionLevel: 9 }).toBuffer();
}
