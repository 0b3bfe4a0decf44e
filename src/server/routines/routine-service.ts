/** Ways that were gone once, kept under a name. */
import { FaultError } from '../../core/faults';
import { GameModel, RoutineModel } from '../database';
import { requireGame } from '../games';
import { startRun } from '../runs';
import type { NamedRoutine, RoutineAnswer, RoutineOrder, RunAnswer } from '../shapes';
import { underRoots } from '../storage';

export async function listRoutines(gameId: number): Promise<RoutineAnswer[]> {
  const rows = await RoutineModel.findAll({ where: { gameId }, order: [['name', 'ASC']] });
  return rows.map(({ id, name, steps }) => ({ id, name, steps }));
}

/** Those of every game, for the command line. */
export async function allRoutines(): Promise<NamedRoutine[]> {
  const rows = await RoutineModel.findAll({ order: [['name', 'ASC']] });
  const games = new Map(
    (await GameModel.findAll({ where: { forgottenAt: null } })).map((game) => [game.id, game.name]),
  );
  return rows.flatMap(({ id, gameId, name }) => {
    const gameName = games.get(gameId);
    return gameName === undefined ? [] : [{ id, name, game: gameId, gameName }];
  });
}

/** Keeps a routine; one of the same name is replaced. @throws FaultError `not-allowed` for a folder outside of the roots */
export async function saveRoutine(gameId: number, { name, steps }: RoutineOrder): Promise<RoutineAnswer[]> {
  await requireGame(gameId);
  for (const step of steps) {
    if (step.do === 'bring-in') await underRoots(step.folder);
    if (step.do === 'take-out') await underRoots(step.order.to);
  }
  const [known] = await RoutineModel.findAll({ where: { gameId, name } });
  if (known === undefined) await RoutineModel.create({ gameId, name, steps });
  else await known.update({ steps });
  return listRoutines(gameId);
}

export async function removeRoutine(gameId: number, id: number): Promise<RoutineAnswer[]> {
  await RoutineModel.destroy({ where: { gameId, id } });
  return listRoutines(gameId);
}

/** @throws FaultError `not-found` */
export async function startRoutine(gameId: number, id: number): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  const routine = await RoutineModel.findOne({ where: { gameId, id } });
  if (routine === null) throw new FaultError({ code: 'not-found', what: 'there is no such routine' });
  const { name, steps } = routine;
  return startRun('routine', { title: `${name} of ${game.name}`, gameId, input: { name, steps: [...steps] } });
}
