export type { SubjectAddress } from './form-view';
export { formView } from './registry';
