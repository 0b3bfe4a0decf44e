export { messagesOf, recordsForm, wordsForm } from './text-form';
