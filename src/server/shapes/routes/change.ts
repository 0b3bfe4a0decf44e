/** Routes: change. */
import { z } from 'zod';
import {
  fitOptionsShape,
  changeAnswer,
  archiveChoice,
  addOrder,
  removeOrder,
  incomingFile,
  importOrder,
  unfinishedImport,
  incomingFiles,
  numbersAnswer,
  changeEdit,
  alsoOrder,
  dropEdit,
  incomingFileQuery,
  incomingFileEdit,
  filmChoices,
  insteadOrder,
  numbersOrder,
} from '../changes';
import { path } from '../common';
import { runAnswer } from '../runs';
import type { RouteTable } from './contract';

export const changeRoutes = {
  'GET games/{game}/changes': { does: 'The changes, the newest first.', answer: z.array(changeAnswer).readonly() },
  'POST games/{game}/changes': {
    does: 'An entry is to be gone from the game.',
    body: removeOrder,
    answer: changeAnswer,
  },
  'PATCH games/{game}/changes/{change}': {
    does: 'Undoes a change, makes it again, or notes something on it.',
    body: changeEdit,
    answer: changeAnswer,
  },
  'POST games/{game}/changes/{change}/again': {
    does: 'Makes the file of a change fit in another way.',
    body: fitOptionsShape,
    answer: runAnswer,
  },
  'POST games/{game}/changes/{change}/also': {
    does: 'Brings the same file into the entries of other languages.',
    body: alsoOrder,
    answer: runAnswer,
  },
  'GET games/{game}/changes/new': {
    does: 'Archives that take new entries.',
    answer: z.array(archiveChoice).readonly(),
  },
  'POST games/{game}/changes/new': {
    does: 'The file is the body, as it is; `path` is the new entry, `into` its archive and `name` what the file is called.',
    query: addOrder,
    body: 'file',
    answer: changeAnswer,
  },
  'POST games/{game}/changes/renew': {
    does: 'Brings the changes to the game as it is now, and builds.',
    answer: runAnswer,
  },
  'GET games/{game}/drops': { does: 'Files that wait for a decision.', answer: incomingFiles },
  'POST games/{game}/drops': {
    does: 'Says which files are to come; they are sent one by one. Scripts that do not know may leave the body out.',
    body: importOrder,
    answer: z.object({ id: z.number() }),
  },
  'PATCH games/{game}/drops/{drop}': {
    does: 'Undoes all changes of an import.',
    body: dropEdit,
    answer: z.object({ undone: z.number() }),
  },
  'DELETE games/{game}/drops/{drop}': {
    does: 'Skips all files of an import that wait.',
    answer: z.object({ passed: z.number() }),
  },
  'POST games/{game}/drops/{drop}/bring-in': { does: 'Makes changes of the files of an import.', answer: runAnswer },
  'POST games/{game}/drops/{drop}/files': {
    does: 'The file is the body, as it is; `name` says what it is called and `path`, when given, which entry it is for.',
    query: incomingFileQuery,
    body: 'file',
    answer: incomingFile,
  },
  'PATCH games/{game}/drops/{drop}/files/{file}': {
    does: 'Says which entry a file is for, or how its film is converted.',
    body: incomingFileEdit,
    answer: incomingFile,
  },
  'GET games/{game}/drops/{drop}/files/{file}': {
    does: 'What is to be chosen before a film is converted.',
    answer: filmChoices,
  },
  'DELETE games/{game}/drops/{drop}/files/{file}': { does: 'Skips a file.', answer: z.object({ passed: z.number() }) },
  'POST games/{game}/drops/{drop}/instead': {
    does: 'Puts entries of the game in the place of others.',
    body: insteadOrder,
    answer: z.object({ added: z.number() }),
  },
  'GET games/{game}/drops/{drop}/numbers': {
    does: 'Where the numbered files of an import may go.',
    query: z.object({ folder: path.optional() }),
    answer: numbersAnswer,
  },
  'POST games/{game}/drops/{drop}/numbers': {
    does: 'Says how the numbers of files are counted.',
    body: numbersOrder,
    answer: z.object({ placed: z.number() }),
  },
  'GET games/{game}/drops/unfinished': {
    does: 'Imports that were cut off while their files were sent.',
    answer: z.array(unfinishedImport).readonly(),
  },
} as const satisfies RouteTable;
