/** A picture in an open format. */
import { writeDds } from './dds';
import { writeKtx2 } from './ktx2';
import type { PictureOut } from './out-formats';
import { unpackLevel, type Picture, type Pixels } from './picture';
import { writePng } from './raster';
import { writeTga } from './tga';

/** @throws FormatError `wrong-kind` for pixels that the format does not keep */
export async function writePicture(picture: Picture, as: PictureOut): Promise<Uint8Array> {
  switch (as) {
    case 'png':
      return writePng(oneBelowTheOther(picture));
    case 'tga':
      return writeTga(oneBelowTheOther(picture));
    case 'dds':
      return writeDds(picture);
    case 'ktx2':
      return writeKtx2(picture);
  }
}

/** All layers, faces and slices of the largest mip in one picture, from top to bottom. */
function oneBelowTheOther(picture: Picture): Pixels {
  const { width, height, layers, faces, depth } = picture;
  const rgba = new Uint8Array(width * height * layers * faces * depth * 4);
  let at = 0;
  for (let layer = 0; layer < layers; layer++)
    for (let face = 0; face < faces; face++)
      for (let slice = 0; slice < depth; slice++) {
        const level = unpackLevel(picture, { mip: 0, layer, face, slice });
        rgba.set(level.rgba, at);
        at += level.rgba.length;
      }
  return { width, height: height * layers * faces * depth, rgba };
}
