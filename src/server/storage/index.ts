export { blobPath, hasBlob, keepBlob, keepBytes, keepWritten, type Blob } from './blobs';
export { listPlaces } from './places';
export { underRoots } from './roots';
export { openSealed, seal } from './secret';
