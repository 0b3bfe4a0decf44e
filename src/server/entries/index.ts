export { entryBytes, findWinner, thumbnail } from './entry-content';
export { entryAt, entryDetails, listEntries, listFolders } from './entry-service';
