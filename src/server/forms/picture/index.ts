export { pictureOf, pictureOfFiles, pictureOfHalf } from './entry-picture';
export { levelOf } from './level';
export { isRaster, pictureForm, readRaster } from './picture-form';
export { pictureFileAs } from './picture-out';
export { unpackMip } from './unpack-mip';
