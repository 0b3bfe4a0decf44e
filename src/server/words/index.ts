export { listFontGaps } from './fonts';
export { addLanguage, listLanguages } from './languages';
export { listWords, replaceWords, setWord, wordsFile } from './words-service';
export { fillTwins, startWordsIn, wordsInRun } from './words-import';
export { listTables } from './word-lines';
