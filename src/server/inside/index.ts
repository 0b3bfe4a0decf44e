export { insideRun, listHits, startInside } from './inside-run';
export { linksOf, linksRun, startLinks } from './links-run';
export { changeText, textPlaceOf } from './text-in-file';
export { eachEntry } from './each-entry';
