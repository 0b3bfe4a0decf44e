export { subjectBytes } from './subject';
