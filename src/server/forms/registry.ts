/** The forms, in the order in which they are asked: a packet of a film belongs to the film. A new one is added to this list. */
import { filmForm } from './film';
import { fontForm } from './font';
import type { ServerForm, Subject } from './form';
import { meshForm } from './mesh';
import { pictureForm } from './picture';
import { soundForm } from './sound';
import { recordsForm, wordsForm } from './text';

export const FORMS: readonly ServerForm[] = [
  filmForm,
  pictureForm,
  soundForm,
  meshForm,
  fontForm,
  wordsForm,
  recordsForm,
];

/** The form of a subject; undefined when it is of none, and has to be taken as bytes. */
export const formOf = (subject: Subject): ServerForm | undefined => FORMS.find((form) => form.is(subject));
