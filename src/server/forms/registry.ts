/** The forms. A new one is added to this list. */
import { filmForm } from './film';
import { fontForm } from './font';
import type { ServerForm, Subject } from './form';
import { meshForm } from './mesh';
import { pictureForm } from './picture';
import { soundForm } from './sound';
import { recordsForm, wordsForm } from './text';

export const FORMS: readonly ServerForm[] = [
  pictureForm,
  soundForm,
  filmForm,
  meshForm,
  fontForm,
  wordsForm,
  recordsForm,
];

/** The form of a subject; undefined when it is of none, and has to be taken as bytes. */
export const formOf = (subject: Subject): ServerForm | undefined => FORMS.find((form) => form.is(subject));
