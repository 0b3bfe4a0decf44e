export { compareEntries } from './compare';
export { overviewOf } from './overview';
export { findInEntry } from './find-in-entry';
export { glancesAt } from './glance';
export { listSearches, removeSearch, saveSearch } from './saved-searches';
export { entryAt, entryDetails, listEntries, listFolders, listPaths, placeInList } from './entry-service';
export { thumbnail } from './thumbnail';
