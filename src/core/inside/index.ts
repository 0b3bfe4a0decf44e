export { CONTEXT_BYTES, findInside, type Hit } from './find-inside';
export { needlesFor, NUMBER_FORMS, soughtSchema, TEXT_ENCODINGS, type Needle, type Sought } from './needles';
