export { insideRun, listHits, startInside } from './inside-run';
export { linksOf, linksRun, startLinks } from './links-run';
export { eachEntry } from './each-entry';
