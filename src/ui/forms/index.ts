export type { FormSide, SubjectAddress } from './form-view';
export { formView } from './registry';
