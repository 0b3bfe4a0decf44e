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
export { underRoots } from './roots';
export { sha256OfFile } from './sha256';
export { openSealed, seal } from './secret';
