/** Routes: application. */
import { z } from 'zod';
import { signInOrder } from '../access';
import { numberText } from '../common';
import { placesAnswer } from '../games';
import { measuredHome } from '../home';
import { namedRoutine } from '../put-back';
import {
  recipeAnswer,
  recipeText,
  recipeToSave,
  recipeTry,
  checkAnswer,
  tryAnswer,
  vocabularyAnswer,
} from '../recipes';
import { runAnswer, logLine } from '../runs';
import type { RouteTable } from './contract';

export const applicationRoutes = {
  'POST session': { does: 'Signs in.', body: signInOrder, answer: z.null() },
  'DELETE session': { does: 'Signs out.', answer: z.null() },
  'GET home': { does: 'What is on disk, as it was measured last.', answer: measuredHome },
  'POST home': { does: 'Frees what can be made again.', answer: runAnswer },
  'POST home/measure': { does: 'Measures what is on disk.', answer: runAnswer },
  'GET places': {
    does: 'The folders below one, among those that may be used.',
    query: z.object({ under: z.string().max(4096).default('') }),
    answer: placesAnswer,
  },
  'GET recipes': { does: 'The recipes there are.', answer: z.array(recipeAnswer).readonly() },
  'POST recipes': {
    does: 'Saves a recipe, for one game or for all.',
    body: recipeToSave,
    answer: z.object({ id: z.string(), revision: z.number() }),
  },
  'POST recipes/check': { does: 'Checks the text of a recipe.', body: recipeText, answer: checkAnswer },
  'POST recipes/try': { does: 'Reads an archive with the text of a recipe.', body: recipeTry, answer: tryAnswer },
  'GET recipes/words': { does: 'The words of the recipe language.', answer: vocabularyAnswer },
  'GET routines': { does: 'The routines of every game.', answer: z.array(namedRoutine).readonly() },
  'GET runs': {
    does: 'The newest runs, of one game or of all.',
    query: z.object({ game: numberText.optional() }),
    answer: z.array(runAnswer).readonly(),
  },
  'GET runs/{run}': { does: 'A run.', answer: runAnswer },
  'POST runs/{run}/{action}': {
    does: 'Stops a run, or resumes it: the action is `stop` or `resume`.',
    answer: runAnswer,
  },
  'GET runs/{run}/log': { does: 'The log of a run.', answer: z.array(logLine).readonly() },
} as const satisfies RouteTable;
