export { pictureView } from './picture-view';
