/** The forms whose views pages find by the kind of an entry. A new one is added to this list. */
import type { KindName } from '../../server/shapes';
import { fontView } from './font';
import type { FormView } from './form-view';

const VIEWS: Readonly<Partial<Record<KindName, FormView>>> = { font: fontView };

export const formView = (kind: KindName): FormView | undefined => VIEWS[kind];
