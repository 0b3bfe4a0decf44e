/** Routes: put back. */
import { z } from 'zod';
import { fileName } from '../common';
import { gameRow, newGame } from '../games';
import { shareOrder, modsAnswer, modEdit } from '../mods';
import {
  testRulesAnswer,
  testRulesEdit,
  routineOrder,
  routineAnswer,
  putBackAnswer,
  takeBackOrder,
  buildOrder,
  sceneQuery,
} from '../put-back';
import { runAnswer } from '../runs';
import type { RouteTable } from './contract';

export const putBackRoutes = {
  'GET games': { does: 'Games that are known.', answer: z.array(gameRow).readonly() },
  'POST games': {
    does: 'Adds the folder of a game and scans it.',
    body: newGame,
    answer: z.object({ game: gameRow, run: runAnswer }),
  },
  'POST games/{game}/builds': { does: 'Builds the changes.', body: buildOrder, answer: runAnswer },
  'PUT games/{game}/builds': { does: 'Works out what each way to build would write.', answer: runAnswer },
  'DELETE games/{game}/builds/{build}': {
    does: 'Deletes a build with the files that only it refers to.',
    answer: z.null(),
  },
  'POST games/{game}/builds/{build}/put-in': { does: 'Puts a build into the game.', answer: runAnswer },
  'GET games/{game}/builds/{build}/report': { does: 'The report of the test run, as a file.', answer: 'bytes' },
  'GET games/{game}/builds/{build}/scene': {
    does: 'A picture or sound of the test run.',
    query: sceneQuery,
    answer: 'bytes',
  },
  'POST games/{game}/installs/{install}/take-back': {
    does: 'Takes a build out of the game again.',
    body: takeBackOrder,
    answer: runAnswer,
  },
  'GET games/{game}/mods': { does: 'The mods of a game.', answer: modsAnswer },
  'POST games/{game}/mods': {
    does: 'The mod file is the body; `name` is what it is called.',
    query: fileName,
    body: 'file',
    answer: runAnswer,
  },
  'PATCH games/{game}/mods/{mod}': { does: 'Turns a mod on or off, or moves it.', body: modEdit, answer: modsAnswer },
  'DELETE games/{game}/mods/{mod}': { does: 'Removes a mod.', answer: modsAnswer },
  'GET games/{game}/mods/{mod}/picture': { does: 'The picture of a mod.', answer: 'bytes' },
  'POST games/{game}/mods/agree/{run}': { does: 'Brings in a mod that unpacks to very much.', answer: runAnswer },
  'POST games/{game}/mods/share': { does: 'Makes a mod file of the changes.', body: shareOrder, answer: runAnswer },
  'GET games/{game}/mods/share/{run}': { does: 'The mod file that a run made.', answer: 'bytes' },
  'POST games/{game}/mods/share/picture': {
    does: 'The picture is the body.',
    body: 'file',
    answer: z.object({ picture: z.string() }),
  },
  'GET games/{game}/put-back': {
    does: 'Builds, what is in the game, and what each way to build would write.',
    answer: putBackAnswer,
  },
  'GET games/{game}/routines': { does: 'The routines of a game.', answer: z.array(routineAnswer).readonly() },
  'POST games/{game}/routines': {
    does: 'Saves a routine.',
    body: routineOrder,
    answer: z.array(routineAnswer).readonly(),
  },
  'POST games/{game}/routines/{routine}': { does: 'Starts a routine.', answer: runAnswer },
  'DELETE games/{game}/routines/{routine}': { does: 'Deletes a routine.', answer: z.array(routineAnswer).readonly() },
  'GET games/{game}/test-rules': { does: 'The rules of the test run.', answer: testRulesAnswer },
  'PUT games/{game}/test-rules': {
    does: 'Sets the rules of the test run.',
    body: testRulesEdit,
    answer: testRulesAnswer,
  },
} as const satisfies RouteTable;
