/** Routes: find. */
import { z } from 'zod';
import { fontLineQuery } from '../font';
import { insteadAnswer, otherLanguage, insteadQuery } from '../changes';
import { numberText, pathQuery } from '../common';
import { comparedAnswer, entryMark } from '../compare';
import {
  hitsPage,
  linksAnswer,
  placeInBytes,
  insideOrder,
  textPlaceQuery,
  textOrder,
  textPlaceAnswer,
  findInEntryOrder,
} from '../content-search';
import { entryDetails, glance, glanceOrder } from '../entry-details';
import { levelQuery } from '../picture';
import { filmFileAnswer } from '../film-file';
import { filmOrder } from '../films';
import { entryPage, folderRow, entryPlace, entryQuery, listPart } from '../lists';
import { overviewAnswer } from '../overview';
import { tileMapEdit, tileMapAnswer, tileMapQuery } from '../records';
import { runAnswer } from '../runs';
import type { RouteTable } from './contract';

export const findRoutes = {
  'GET games/{game}/compare': {
    does: 'Two entries beside each other: `left` and `right` are an archive and a number, such as `3.17`; `of` is the game of the right one.',
    query: z.object({ left: entryMark, right: entryMark, of: numberText.optional() }),
    answer: comparedAnswer,
  },
  'GET games/{game}/entries': { does: 'A page of the entries that match.', query: entryQuery, answer: entryPage },
  'GET games/{game}/entries/{archive}/{n}': { does: 'An entry with its details.', answer: entryDetails },
  'GET games/{game}/entries/{archive}/{n}/as/{format}': { does: 'An entry in an open format.', answer: 'bytes' },
  'GET games/{game}/entries/{archive}/{n}/bytes': { does: 'The bytes of an entry.', answer: 'bytes' },
  'GET games/{game}/entries/{archive}/{n}/film': {
    does: 'The film as a file that was made before.',
    query: filmOrder,
    answer: 'bytes',
  },
  'POST games/{game}/entries/{archive}/{n}/film': {
    does: 'Has it made, unless it is there.',
    body: filmOrder,
    answer: filmFileAnswer,
  },
  'POST games/{game}/entries/{archive}/{n}/find': {
    does: 'The next match in the bytes of an entry.',
    body: findInEntryOrder,
    answer: placeInBytes,
  },
  'GET games/{game}/entries/{archive}/{n}/map': {
    does: 'What an entry is as a map of tile layers.',
    answer: tileMapAnswer,
  },
  'PUT games/{game}/entries/{archive}/{n}/map': {
    does: 'How files like this one hold a map.',
    body: tileMapEdit,
    answer: tileMapAnswer,
  },
  'GET games/{game}/entries/{archive}/{n}/map/picture': {
    does: 'A map as PNG, with the layers that are asked for.',
    query: tileMapQuery,
    answer: 'bytes',
  },
  'GET games/{game}/entries/{archive}/{n}/subtitles': {
    does: 'The subtitles of one stream of a film, as SRT or WebVTT.',
    query: filmOrder.partial(),
    answer: 'bytes',
  },
  'GET games/{game}/entries/{archive}/{n}/thumbnail': { does: 'A small picture of an entry.', answer: 'bytes' },
  'POST games/{game}/entries/paths': {
    does: 'The paths of a list, or of parts of one.',
    body: listPart,
    answer: z.object({ paths: z.array(z.string()).readonly() }),
  },
  'GET games/{game}/entries/place': {
    does: 'The position of an entry in a list: `of` and `n` say which entry.',
    query: entryPlace.extend({ of: numberText, n: numberText }),
    answer: z.object({ place: z.number() }),
  },
  'GET games/{game}/folders': {
    does: 'The folders right below another.',
    query: z.object({ under: z.string().max(4096).default(''), archive: numberText.optional() }),
    answer: z.array(folderRow).readonly(),
  },
  'POST games/{game}/glances': {
    does: 'A first look at many entries.',
    body: glanceOrder,
    answer: z.array(glance).readonly(),
  },
  'POST games/{game}/inside': { does: 'Searches the content of entries.', body: insideOrder, answer: runAnswer },
  'GET games/{game}/inside/{run}': {
    does: 'What was found so far, from `offset` on.',
    query: z.object({ offset: numberText.default(0) }),
    answer: hitsPage,
  },
  'GET games/{game}/inside/text': {
    does: 'The text that a place inside a file lies in.',
    query: textPlaceQuery,
    answer: textPlaceAnswer,
  },
  'POST games/{game}/inside/text': {
    does: 'Other words in its place.',
    body: textOrder,
    answer: z.object({ change: z.number() }),
  },
  'GET games/{game}/instead': {
    does: 'What would go along when one entry takes the place of another.',
    query: insteadQuery,
    answer: insteadAnswer,
  },
  'GET games/{game}/links': { does: 'What an entry names and what names it.', query: pathQuery, answer: linksAnswer },
  'POST games/{game}/links': { does: 'Starts to find out what names what.', answer: runAnswer },
  'GET games/{game}/other-languages': {
    does: 'The same entry in other languages.',
    query: pathQuery,
    answer: z.array(otherLanguage).readonly(),
  },
  'GET games/{game}/overview': { does: 'Sums over the entries that match.', query: entryPlace, answer: overviewAnswer },
  'GET games/{game}/subjects/{subject}/bytes': {
    does: 'The plain bytes of a subject, which is `entry-ARCHIVE-N`, `change-ID` or `base-ID`.',
    answer: 'bytes',
  },
  'GET games/{game}/subjects/{subject}/model': {
    does: 'A mesh, or a clip with its mesh, as GLB that a page draws.',
    answer: 'bytes',
  },
  'GET games/{game}/subjects/{subject}/picture': {
    does: 'One level of a packed picture, as it is packed.',
    query: levelQuery,
    answer: 'bytes',
  },
  'GET games/{game}/subjects/{subject}/sound': {
    does: 'A sound as WAVE, which every browser plays: decoded where a recipe says what it is.',
    answer: 'bytes',
  },
  'GET games/{game}/subjects/{subject}/text': {
    does: 'Messages that are kept packed, as PO.',
    answer: 'bytes',
  },
  'GET games/{game}/subjects/{subject}/line': {
    does: 'A line of text drawn in a font, as PNG.',
    query: fontLineQuery,
    answer: 'bytes',
  },
  'GET games/{game}/winner': { does: 'The entry the game loads for a path.', query: pathQuery, answer: entryDetails },
} as const satisfies RouteTable;
