import type { FormView } from '../form-view';
import { fontTray } from './font-tray';
import { FontComparison } from './FontComparison';
import { FontView } from './FontView';

export const fontView: FormView = { View: FontView, Compare: FontComparison, tray: fontTray };
