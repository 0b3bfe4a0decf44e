/** What the game had when a change was made: kept, so that it is known later what the change was made against. */
import { readEntry } from '../../core/recipe';
import { ChangeModel } from '../database';
import { findWinner } from '../content';
import { withArchive } from '../games';
import { keepBlob } from '../storage';

/** Keeps what the game has now. @returns its SHA-256 */
export async function keepBase(gameId: number, path: string): Promise<string> {
  const { archive, n } = await findWinner(gameId, path);
  return withArchive(archive, async (opened) => (await keepBlob(readEntry(opened, n))).sha256);
}

/** What the game has now is what a change was made against, from here on: a person has looked at both. */
export async function acceptConflict(gameId: number, id: number): Promise<void> {
  const change = await ChangeModel.findOne({ where: { gameId, id } });
  const own = await ChangeModel.findAll({ where: { gameId, withId: id } });
  for (const one of change === null ? [] : [change, ...own])
    if (one.action !== 'add') await one.update({ base: await keepBase(gameId, one.path), status: 'fits' });
}
