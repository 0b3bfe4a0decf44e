export { fontForm, fontLine, fontOf } from './font-form';
export { fontInContainer } from './open-font';
