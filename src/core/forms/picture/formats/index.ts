export { readDds, writeDds } from './dds';
export { writeKtx2 } from './ktx2';
export {
  isOpenPicture,
  isPackedFormat,
  openFormat,
  PICTURE_ENDINGS,
  readPicture,
  type OpenPicture,
  type PictureFormat,
} from './open-formats';
export { writeTga } from './tga';
