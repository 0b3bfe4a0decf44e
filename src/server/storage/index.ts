export {
  blobFile,
  blobPath,
  hasBlob,
  keepAll,
  keepBlob,
  keepBytes,
  keepWritten,
  openBlob,
  readAll,
  readBlob,
  type Blob,
} from './blobs';
export { listPlaces } from './places';
export { isBelow, isOwnPlace, underRoots } from './roots';
export { sha256OfFile } from './sha256';
export { openSealed, seal } from './secret';
export { requireSpace } from './space';
