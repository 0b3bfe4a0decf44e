export { entryBytes, entryHead, findWinner, findWinners, isWave, kept } from './entry-content';
export { asPicture } from './raster';
