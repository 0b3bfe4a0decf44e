import type { FormView } from '../form-view';
import { FontComparison } from './FontComparison';
import { FontView } from './FontView';

export const fontView: FormView = { View: FontView, Compare: FontComparison };
