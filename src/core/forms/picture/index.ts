export { asPicture } from './as-picture';
export { asPng, fitPictureFiles, freedom, joinedPart } from './fit-files';
export { fitRaster } from './fit-raster';
export { fitPicture, sayExpectation, type Packer } from './expectation';
export { packPicture, pictureError, type Quality } from './pack';
export {
  isOpenPicture,
  isPackedFormat,
  PICTURE_ENDINGS,
  readDds,
  readPicture,
  writeDds,
  writeKtx2,
  writeTga,
  type OpenPicture,
  type PictureFormat,
} from './formats';
export { readPictureFiles, type ReadCompanion, type PictureFile, type PictureOfFiles } from './picture-files';
export { alphaUse, flatPicture, mipSide, unpackLevel, type LevelPlace, type Picture, type Pixels } from './picture';
export { findPixelFormat, type PixelFormat } from './pixel-formats';
export { readRaster, resized, smallWebp, writePng } from './raster';
export { freedomOf, readRecipePicture, writeRecipePicture, type Freedom, type RecipePicture } from './recipe-picture';
export { cutRectangle, pasteRectangles, rectanglesOf, type Rectangle } from './sheet';
export { CHANNELS_APART, joinPart, parseSplit, splitPart, type SplitPart } from './split';
export { writePicture } from './write-picture';
export type { PictureOut } from './out-formats';
