export {
  sizeIsFree,
  isPackedPicture,
  pictureOfEntry,
  pictureOfHalf,
  pictureOfFiles,
  type PictureFile,
  type PictureOfFiles,
} from './entry-picture';
export { asPng, fitPictureFiles, freedom, joinedPart } from './fit-picture';
export {
  clipOfFile,
  drawingOf,
  isMeshFile,
  meshFacts,
  meshFileOf,
  meshOfClip,
  meshOfFile,
  type MeshChoice,
} from './entry-mesh';
export { fitMeshFile } from './fit-mesh';
export { fontInContainer, fontLine, fontOf } from './font';
export type { FormBytes, ServerForm } from './form';
export { formOfBytes } from './registry';
export { levelOf } from './level';
export { pictureFileAs } from './picture-out';
export {
  entryAsSound,
  entrySoundFormat,
  loopIsFree,
  recipeSound,
  saySoundExpectation,
  soundFileAs,
  soundOfEntry,
  streamedSound,
} from './entry-sound';
export { fitCue, fitSoundFile } from './fit-sound';
export { unpackMip } from './unpack-mip';
