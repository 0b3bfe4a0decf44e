/** A picture in an open format. */
import { writeDds, writeKtx2, writeTga } from './formats';
import type { PictureOut } from './out-formats';
import { mipSide, unpackLevel, type Picture, type Pixels } from './picture';
import { writePng } from './raster';
import { splitPart, type SplitPart } from './split';

/** What of a picture goes into a format that keeps one level. */
export interface WrittenPart {
  /** The smallest where there are fewer. */
  readonly mip?: number;
  readonly part?: SplitPart | undefined;
}

/** @throws FormatError `wrong-kind` for pixels that the format does not keep */
export async function writePicture(
  picture: Picture,
  as: PictureOut,
  { mip = 0, part }: WrittenPart = {},
): Promise<Uint8Array> {
  const shown = () => {
    const whole = oneBelowTheOther(picture, Math.min(mip, picture.mips - 1));
    return part === undefined ? whole : splitPart(whole, part);
  };
  switch (as) {
    case 'png':
      return writePng(shown());
    case 'tga':
      return writeTga(shown());
    case 'dds':
      return writeDds(picture);
    case 'ktx2':
      return writeKtx2(picture);
  }
}

/** All layers, faces and slices of a mip in one picture, from top to bottom. */
function oneBelowTheOther(picture: Picture, mip: number): Pixels {
  const { layers, faces } = picture;
  const [width, height, depth] = [picture.width, picture.height, picture.depth].map((side) => mipSide(side, mip)) as [
    number,
    number,
    number,
  ];
  const rgba = new Uint8Array(width * height * layers * faces * depth * 4);
  let at = 0;
  for (let layer = 0; layer < layers; layer++)
    for (let face = 0; face < faces; face++)
      for (let slice = 0; slice < depth; slice++) {
        const level = unpackLevel(picture, { mip, layer, face, slice });
        rgba.set(level.rgba, at);
        at += level.rgba.length;
      }
  return { width, height: height * layers * faces * depth, rgba };
}
