export { recordsView, wordsView } from './text-view';
