/** Routes: open. */
import { z } from 'zod';
import { profileFile } from '../../../core/game';
import { numberText, fileName } from '../common';
import {
  archiveAnswer,
  insideAnswer,
  profileTaken,
  gameAnswer,
  loadOrderEdit,
  patternEdit,
  recipeChoice,
} from '../games';
import { xorAnswer, newKey, keySearchOrder, xorOrder } from '../keys';
import { labelTableAnswer, labelEdit, labelTableOrder } from '../labels';
import { savedSearch, searchEdit } from '../lists';
import { collectionAnswer, collectionTaken, collectionToSave, hintsAnswer } from '../recipes';
import { runAnswer } from '../runs';
import type { RouteTable } from './contract';

export const openRoutes = {
  'GET games/{game}': { does: 'A game with its archives, keys and names.', answer: gameAnswer },
  'DELETE games/{game}': {
    does: 'Sets a game aside; with `for-good`, deletes everything that was made for it.',
    query: z.object({ 'for-good': z.string().optional() }),
    answer: z.null(),
  },
  'GET games/{game}/archives/{archive}': { does: 'An archive of a game.', answer: archiveAnswer },
  'GET games/{game}/archives/{archive}/bytes': {
    does: 'A stretch of the main file, as the `range` header asks.',
    answer: 'bytes',
  },
  'POST games/{game}/archives/{archive}/find-inside': {
    does: 'Looks for pictures, sounds and streams inside a file no recipe knows.',
    answer: runAnswer,
  },
  'GET games/{game}/archives/{archive}/hints': {
    does: 'What is known of a file no recipe describes.',
    answer: hintsAnswer,
  },
  'GET games/{game}/archives/{archive}/inside': { does: 'The archives right inside another.', answer: insideAnswer },
  'PUT games/{game}/archives/{archive}/recipe': {
    does: 'Says which of several fitting recipes a file is read with, and reads it.',
    body: recipeChoice,
    answer: runAnswer,
  },
  'POST games/{game}/archives/{archive}/xor': {
    does: 'Solves a repeating XOR from known bytes; the key itself is never in the answer.',
    body: xorOrder,
    answer: xorAnswer,
  },
  'GET games/{game}/at': {
    does: 'The entry whose stored bytes hold an offset of an archive, or null.',
    query: z.object({ archive: numberText, offset: numberText }),
    answer: z.object({ archive: z.number(), n: z.number() }).nullable(),
  },
  'POST games/{game}/bring-back': { does: 'Brings back a game that was set aside.', answer: z.null() },
  'POST games/{game}/keys': { does: 'Adds keys from a text.', body: newKey, answer: runAnswer },
  'DELETE games/{game}/keys/{key}': { does: 'Removes a key.', answer: z.null() },
  'POST games/{game}/keys/file': { does: 'A key file is the body, as it is.', body: 'file', answer: runAnswer },
  'POST games/{game}/keys/search': {
    does: 'Looks for keys in a file of the game.',
    body: keySearchOrder,
    answer: runAnswer,
  },
  'GET games/{game}/labels': { does: 'All labels as CSV.', answer: 'bytes' },
  'POST games/{game}/labels': { does: 'Labels entries.', body: labelEdit, answer: z.object({ set: z.number() }) },
  'POST games/{game}/labels/table': {
    does: 'Labels entries from a table.',
    body: labelTableOrder,
    answer: labelTableAnswer,
  },
  'PUT games/{game}/load-order': {
    does: 'Says in which order the game loads its archives.',
    body: loadOrderEdit,
    answer: gameAnswer,
  },
  'POST games/{game}/names': {
    does: 'The list is the body, as it is; `name` says what it is called.',
    query: fileName,
    body: 'file',
    answer: runAnswer,
  },
  'DELETE games/{game}/names/{list}': { does: 'Removes a list of names.', answer: runAnswer },
  'POST games/{game}/names/harvest': { does: 'Looks for names in the game itself.', answer: runAnswer },
  'POST games/{game}/names/pattern': {
    does: 'Tries all names of a pattern.',
    body: patternEdit,
    answer: runAnswer,
  },
  'GET games/{game}/profile': { does: 'What is known of a game, as a file to share.', answer: profileFile },
  'PUT games/{game}/profile': {
    does: 'Imports a profile of the game.',
    body: z.unknown(),
    answer: profileTaken,
  },
  'GET games/{game}/recipes': { does: 'The recipes that a game uses.', answer: collectionAnswer },
  'POST games/{game}/recipes': {
    does: 'Saves recipes from a collection, for one game or for all.',
    body: collectionToSave,
    answer: collectionTaken,
  },
  'POST games/{game}/scan': { does: 'Scans the folder of a game.', answer: runAnswer },
  'GET games/{game}/searches': { does: 'Saved searches.', answer: z.array(savedSearch).readonly() },
  'POST games/{game}/searches': { does: 'Saves a search.', body: searchEdit, answer: z.array(savedSearch).readonly() },
  'DELETE games/{game}/searches/{search}': { does: 'Deletes a saved search.', answer: z.array(savedSearch).readonly() },
  'POST games/{game}/keys/search/file': {
    does: 'Looks for keys in the body of the request; `name` is what it is called.',
    query: fileName,
    body: 'file',
    answer: runAnswer,
  },
  'POST games/{game}/names/pattern/count': {
    does: 'How many paths a pattern has.',
    body: patternEdit,
    answer: z.object({ count: z.number(), first: z.string(), last: z.string() }),
  },
} as const satisfies RouteTable;
