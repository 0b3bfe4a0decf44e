export type { FormSide, ViewProps } from './form-view';
export { formView, TRAY_VIEWS } from './registry';
export type { TrayChoices, TrayContents } from './tray-view';
