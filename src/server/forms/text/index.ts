export { recordsForm, wordsForm } from './text-form';
