export {
  isPackedPicture,
  pictureOfEntry,
  pictureOfFiles,
  type PictureFile,
  type PictureOfFiles,
} from './entry-picture';
export { asPng, fitPictureFiles } from './fit-picture';
export { levelOf } from './level';
export { pictureFileAs } from './picture-out';
export { entrySoundFormat, fitSoundTo, saySoundExpectation, soundFileAs, soundFor, soundOfEntry } from './entry-sound';
