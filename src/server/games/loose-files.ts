/** Loose files of a game that have a form of their own: how many there are. */
import { fn, col } from 'sequelize';
import { LOOSE_RECIPE } from '../../core/carve';
import { ArchiveModel } from '../database';
import type { LooseFiles } from '../shapes';

export async function looseFilesOf(gameId: number): Promise<LooseFiles> {
  const [row] = (await ArchiveModel.findAll({
    where: { gameId, recipe: LOOSE_RECIPE },
    attributes: [
      [fn('count', col('id')), 'files'],
      [fn('coalesce', fn('sum', col('size')), 0), 'bytes'],
    ],
    raw: true,
  })) as unknown as { files: string; bytes: string }[];
  return { files: Number(row!.files), bytes: Number(row!.bytes) };
}
