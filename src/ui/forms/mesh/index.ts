export { meshView } from './mesh-view';
