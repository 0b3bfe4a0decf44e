/** The forms whose views pages find by the kind of an entry. A new one is added to this list. */
import type { KindName } from '../../server/shapes';
import { filmView } from './film';
import { fontView } from './font';
import type { FormView } from './form-view';
import { meshView } from './mesh';
import { pictureView } from './picture';
import { soundView } from './sound';
import { recordsView, wordsView } from './text';
import type { TrayView } from './tray-view';

const VIEWS: Readonly<Partial<Record<KindName, FormView>>> = {
  picture: pictureView,
  sound: soundView,
  mesh: meshView,
  film: filmView,
  font: fontView,
  words: wordsView,
  records: recordsView,
};

export const formView = (kind: KindName): FormView | undefined => VIEWS[kind];

/** Those with a row in the tray, in their order. */
export const TRAY_VIEWS: readonly TrayView[] = Object.values(VIEWS).flatMap(({ tray }) =>
  tray === undefined ? [] : [tray],
);
