/** What is started once archives have been read. */
import { Op } from 'sequelize';
import { LOOSE_RECIPE } from '../../../core/carve';
import { ArchiveModel, ChangeModel, NameListModel, type GameModel } from '../../database';
import { startRun } from '../../runs/run-service';
import { notYetCarved } from './find-inside-run';

/** Patterns of more paths take minutes: they are tried again when someone asks for it. */
const MOST_UNASKED = 500_000_000;

/**
 * @param hashed an archive that keeps hashes was read again: lists that were tested before may name its entries
 * @param changed archives are others than before: changes may not fit them any more
 */
export async function followUp(
  game: GameModel,
  { hashed, changed = false }: { hashed: boolean; changed?: boolean },
): Promise<void> {
  const gameId = game.id;
  const all = hashed ? await NameListModel.findAll({ where: { gameId }, order: [['id', 'ASC']] }) : [];
  const lists = all.filter(({ kind, tested }) => kind !== 'pattern' || tested <= MOST_UNASKED);
  if (lists.length > 0)
    await startRun('names', {
      title: `Naming entries of ${game.name}`,
      gameId,
      input: { lists: lists.map(({ id }) => id) },
    });
  if (changed && (await ChangeModel.count({ where: { gameId, undone: false } })) > 0)
    await startRun('rebase', { title: `Checking your changes against ${game.name}`, gameId, input: {} });
  if ((await notYetCarved(gameId)).length > 0)
    await startRun('find-inside', { title: `Looking for hidden files in ${game.name}`, gameId, input: {} });
  if (
    (await ArchiveModel.count({
      where: { gameId, state: ['open', 'damaged'], proof: null, recipe: { [Op.ne]: LOOSE_RECIPE } },
    })) > 0
  )
    await startRun('prove', { title: `Proving the archives of ${game.name}`, gameId, input: {} });
}
