/** Routes: words and records. */
import { z } from 'zod';
import { changeAnswer } from '../changes';
import { fontGapsAnswer } from '../font';
import {
  recordReference,
  recordTablesAnswer,
  recordsPage,
  whereAnswer,
  recordsQuery,
  whereQuery,
  cellEdit,
  referenceEdit,
} from '../records';
import { runAnswer } from '../runs';
import {
  wordTablesAnswer,
  languageAnswer,
  wordsPair,
  wordsIn,
  wordsQuery,
  wordsFileQuery,
  wordEdit,
  wordsReplace,
  wordsAnswer,
  languageOrder,
} from '../words';
import type { RouteTable } from './contract';

export const wordsAndRecordsRoutes = {
  'GET games/{game}/records': { does: 'Rows of a table of records.', query: recordsQuery, answer: recordsPage },
  'PATCH games/{game}/records': { does: 'Changes a cell.', body: cellEdit, answer: changeAnswer },
  'PUT games/{game}/records/references': {
    does: 'Says which column refers to which table.',
    body: referenceEdit,
    answer: z.array(recordReference).readonly(),
  },
  'GET games/{game}/records/tables': { does: 'The tables of records.', answer: recordTablesAnswer },
  'POST games/{game}/records/tables': { does: 'Reads the records of the game.', answer: runAnswer },
  'GET games/{game}/records/where': { does: 'Where a value occurs.', query: whereQuery, answer: whereAnswer },
  'GET games/{game}/words': {
    does: 'Texts of a table beside those of another.',
    query: wordsQuery,
    answer: wordsAnswer,
  },
  'PUT games/{game}/words': { does: 'One text.', body: wordEdit, answer: z.null() },
  'PATCH games/{game}/words': { does: 'Part of many texts.', body: wordsReplace, answer: runAnswer },
  'POST games/{game}/words': {
    does: 'A file of texts is the body; `name` is what it is called.',
    query: wordsIn.extend({ name: z.string().max(200).default('texts.csv') }),
    body: 'file',
    answer: runAnswer,
  },
  'GET games/{game}/words/file': {
    does: 'All texts of a table as CSV, PO or JSON.',
    query: wordsFileQuery,
    answer: 'bytes',
  },
  'GET games/{game}/words/fonts': {
    does: 'Which fonts of the game lack letters that the texts of a table use.',
    query: wordsPair,
    answer: fontGapsAnswer,
  },
  'GET games/{game}/words/languages': {
    does: "The languages the game's menu shows.",
    answer: z.array(languageAnswer).readonly(),
  },
  'POST games/{game}/words/languages': {
    does: 'A new one, made of one there is.',
    body: languageOrder,
    answer: runAnswer,
  },
  'GET games/{game}/words/tables': { does: 'The tables of texts.', answer: wordTablesAnswer },
  'POST games/{game}/words/twins': {
    does: 'Takes over texts whose source is translated elsewhere.',
    body: wordsPair,
    answer: runAnswer,
  },
} as const satisfies RouteTable;
