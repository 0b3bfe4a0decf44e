export { checkWords, type WordRules } from './check-words';
export { languageCodes, tableInLocale, wordLocale, wordTable, type TableText, type WordTable } from './recipe-words';
export { withoutPlaceholders } from './placeholders';
export { spellOut, unwritable } from './spell-out';
export { twinsOf, type TwinRow } from './twins';
export { isSameLanguage, readWords, writeWords } from './word-files';
export { WORD_FILES, type WordFile } from './out-formats';
export { type WordEdit, type WordRow } from './words';
