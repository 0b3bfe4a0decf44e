import type { Pixels } from './picture';

/** Nearly all pixels are directions of length 1 that point out of the surface. */
export function isNormalMap({ rgba }: Pixels): boolean {
  let fitting = 0;
  for (let i = 0; i < rgba.length; i += 4) {
    const x = rgba[i]! / 127.5 - 1;
    const y = rgba[i + 1]! / 127.5 - 1;
    const z = rgba[i + 2]! / 127.5 - 1;
    if (z > 0 && Math.abs(Math.hypot(x, y, z) - 1) < 0.12) fitting++;
  }
  return fitting > (rgba.length / 4) * 0.9;
}
