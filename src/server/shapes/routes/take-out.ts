/** Routes: take out. */
import { z } from 'zod';
import { routineStep } from '../put-back';
import { runAnswer } from '../runs';
import { trayListed, trayAnswer, trayListText, trayEdit, takeOutOrder, clashesAnswer } from '../take-out';
import type { RouteTable } from './contract';

export const takeOutRoutes = {
  'GET games/{game}/splits': {
    does: 'Rules that split the channels of pictures.',
    answer: z.array(z.string()).readonly(),
  },
  'POST games/{game}/take-out': { does: 'Takes out what is in the tray.', body: takeOutOrder, answer: runAnswer },
  'POST games/{game}/take-out/{run}/repeat': {
    does: 'Takes out again what a run took, as the game has it now.',
    answer: runAnswer,
  },
  'GET games/{game}/take-out/{run}/step': { does: 'What a run took out, as a step of a routine.', answer: routineStep },
  'GET games/{game}/take-out/{run}/zip': { does: 'What a run took out, as one ZIP.', answer: 'bytes' },
  'POST games/{game}/take-out/clashes': {
    does: 'Files of yours that taking out would meet.',
    body: takeOutOrder,
    answer: clashesAnswer,
  },
  'GET games/{game}/tray': { does: 'What is in the tray.', answer: trayAnswer },
  'POST games/{game}/tray': { does: 'Adds to the tray, or removes from it.', body: trayEdit, answer: trayAnswer },
  'GET games/{game}/tray/list': { does: 'The paths in the tray, as a text.', answer: 'bytes' },
  'POST games/{game}/tray/list': {
    does: 'Adds the paths of a text to the tray.',
    body: trayListText,
    answer: trayListed,
  },
} as const satisfies RouteTable;
