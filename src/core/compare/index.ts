export { compareBytes, MOST_DIFFERENCES, type BytesCompared, type Difference } from './compare-bytes';
export { moreDetailed, type Detail } from './more-detailed';
