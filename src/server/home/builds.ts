/** Deleting builds: what they hold is then referred to by nothing else, and can be collected. */
import { Op } from 'sequelize';
import { FaultError } from '../../core/faults';
import { BuildModel, database, InstallModel } from '../database';
import { requireGame } from '../games';

/**
 * Deletes a build, with what is remembered of having put it in and taken it out again.
 *
 * @throws FaultError `not-found`, or `conflict` while it is in the game
 */
export async function deleteBuild(gameId: number, id: number): Promise<void> {
  await requireGame(gameId);
  await database().transaction(async (transaction) => {
    const build = await BuildModel.findOne({ where: { gameId, id }, transaction, lock: transaction.LOCK.UPDATE });
    if (build === null) throw new FaultError({ code: 'not-found', what: 'there is no such build' });
    const inUse = await InstallModel.count({ where: { buildId: id, state: { [Op.ne]: 'out' } }, transaction });
    if (inUse > 0)
      throw new FaultError({
        code: 'conflict',
        what: `build ${build.number} is in the game`,
        hint: 'Take it out of the game first: the originals it replaced are kept with it.',
      });
    await InstallModel.destroy({ where: { buildId: id }, transaction });
    await build.destroy({ transaction });
  });
}
