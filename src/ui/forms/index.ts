export type { FormSide, ViewProps } from './form-view';
export { formView } from './registry';
