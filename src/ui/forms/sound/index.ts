export { soundView } from './sound-view';
