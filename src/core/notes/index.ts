/** Notes: what was done to a file, as codes with facts, and one catalogue of their sentences. */
export { sayChannels } from './note';
export { noteSchema, sayNote, type Note } from './catalogue';
