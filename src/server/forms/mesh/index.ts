export { meshFileOf, WEB_PREVIEW_OPTIONS } from './entry-mesh';
export { meshForm } from './mesh-form';
