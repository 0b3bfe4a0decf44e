export { listFontGaps } from './fonts';
export { addLanguage, listLanguages } from './languages';
export {
  fillTwins,
  listTables,
  listWords,
  replaceWords,
  setWord,
  startWordsIn,
  wordsFile,
  wordsInRun,
} from './words-service';
