export { fontForm, fontLine, fontOf } from './font-form';
