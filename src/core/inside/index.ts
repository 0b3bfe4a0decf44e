export { findInside, type Hit } from './find-inside';
export { KnownNumbers } from './known-numbers';
export { needlesFor, type Needle } from './needles';
export { NUMBER_FORMS, soughtSchema, type Sought } from './sought';
