export { fontLine, fontOf } from './font';
export type { FormRead, ServerForm, Subject } from './form';
export { meshFileOf, WEB_PREVIEW_OPTIONS } from './mesh';
export { levelOf, pictureFileAs, pictureOf, pictureOfHalf } from './picture';
export { FORMS, formOf } from './registry';
export type { ConvertedFile, OutPlan, TakeOutChoices } from './take-out';
export { asSound, soundFileAs, streamedSound } from './sound';
export { messagesOf } from './text';
export { asItself, bytesSubject, entrySubject } from './subject';
