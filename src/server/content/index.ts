export { entryBytes, entryHead, findWinner, findWinners, isWave, kept, winnerBytes } from './entry-content';
