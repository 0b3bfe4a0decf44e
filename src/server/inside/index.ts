export { insideRun, listHits, startInside } from './inside-run';
export { linksOf, linksRun, startLinks } from './links-run';
export { eachEntry, FILE_ITSELF } from './each-entry';
