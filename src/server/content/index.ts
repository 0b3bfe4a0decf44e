export { entryBytes, entryHead, findWinner, findWinners, isWave, kept, winnerBytes } from './entry-content';
export { asPicture } from './raster';
