import { FaultError } from '../../core/faults';
import { GameModel } from '../database';

/** @throws FaultError `not-found` */
export async function requireGame(id: number): Promise<GameModel> {
  const game = await GameModel.findByPk(id);
  if (game !== null) return game;
  throw new FaultError({ code: 'not-found', what: `there is no game ${id}`, hint: 'It may have been removed.' });
}
