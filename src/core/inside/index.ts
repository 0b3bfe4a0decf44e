export { findInside, type Hit } from './find-inside';
export { KnownNumbers } from './known-numbers';
export { needlesFor, type Needle } from './needles';
export { NUMBER_FORMS, soughtSchema, TEXT_ENCODINGS, type Sought } from './sought';
export { fillTextRun, textRunAt, type TextEncoding, type TextRun } from './text-run';
