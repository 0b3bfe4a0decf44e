/** Which packing suits the pixels of a picture, among those that its file may have. */
import { isNormalMap } from './normal-map';
import { canPack } from './pack';
import { alphaUse, type Pixels } from './picture';
import { findPixelFormat, type PixelFormat } from './pixel-formats';

export interface ChosenFormat {
  readonly format: PixelFormat;
  readonly reason: 'normal-map' | 'no-alpha' | 'alpha';
  /** Percent of the pixels that are see-through, where alpha is used. */
  readonly percent?: number;
}

/**
 * BC5 for directions, BC1 without alpha, BC7 or BC3 with it; what the file may not have is skipped.
 *
 * @param allowed names of formats
 * @param srgb whether the pixels are colours
 * @returns undefined when none of these is allowed
 */
export function chooseFormat(pixels: Pixels, allowed: readonly string[], srgb: boolean): ChosenFormat | undefined {
  const first = (names: readonly string[], why: Omit<ChosenFormat, 'format'>): ChosenFormat | undefined => {
    const name = names.find((one) => allowed.includes(one) && canPack(findPixelFormat(one)!));
    return name === undefined ? undefined : { format: findPixelFormat(name)!, ...why };
  };
  const alpha = alphaUse(pixels);
  if (!srgb && isNormalMap(pixels) && alpha === 'none')
    return first(['bc5', 'bc7', 'bc3', 'bc1'], { reason: 'normal-map' });
  if (alpha === 'none') return first(['bc1', 'bc7', 'bc3'], { reason: 'no-alpha' });
  let clear = 0;
  for (let i = 3; i < pixels.rgba.length; i += 4) if (pixels.rgba[i]! < 255) clear++;
  const percent = Math.max(1, Math.round((400 * clear) / pixels.rgba.length));
  return first(['bc7', 'bc3'], { reason: 'alpha', percent });
}
