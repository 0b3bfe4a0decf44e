/** Deleting builds: what they hold is then referred to by nothing else, and can be collected. */
import { Op } from 'sequelize';
import { FaultError } from '../../core/faults';
import { BuildModel, database, InstallModel, RunModel } from '../database';
import { requireGame } from '../games';

/** Runs that may be about to put a build in. */
const PUTTING_IN = ['put-in', 'routine'];
const UNFINISHED = ['waiting', 'working', 'stopping', 'interrupted'];

/**
 * Deletes a build, with what is remembered of having put it in and taken it out again.
 *
 * @throws FaultError `not-found`, or `conflict` while it is in the game, on its way there, or the only one that knows an
 *   original that was not put back
 */
export async function deleteBuild(gameId: number, id: number): Promise<void> {
  await requireGame(gameId);
  await database().transaction(async (transaction) => {
    const build = await BuildModel.findOne({ where: { gameId, id }, transaction, lock: transaction.LOCK.UPDATE });
    if (build === null) throw new FaultError({ code: 'not-found', what: 'there is no such build' });
    const installs = await InstallModel.findAll({ where: { buildId: id }, transaction });
    const onTheWay = await RunModel.count({
      where: { gameId, kind: PUTTING_IN, state: { [Op.in]: UNFINISHED } },
      transaction,
    });
    const left = installs.flatMap(({ leftAlone }) => leftAlone);
    if (left.length > 0)
      throw new FaultError({
        code: 'conflict',
        what: `build ${build.number} was taken out around files that something else had written: ${left.join(', ')}`,
        hint: 'The originals of these files are kept with the build.',
      });
    if (onTheWay > 0 || installs.some(({ state }) => state !== 'out'))
      throw new FaultError({
        code: 'conflict',
        what: `build ${build.number} is in the game, or on its way there`,
        hint: 'Take it out of the game first: the originals it replaced are kept with it.',
      });
    await InstallModel.destroy({ where: { buildId: id }, transaction });
    await build.destroy({ transaction });
  });
}
