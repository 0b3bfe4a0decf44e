export { subjectOf } from './subject';
