/** Rules that split packed pictures, kept with the game: what was taken out by one comes back by it. */
import { CHANNELS_APART } from '../../core/forms/picture';
import { GameModel } from '../database';
import { profileOf } from './load-order';
import { requireGame } from './require-game';

const MOST = 20;

/** The rules of a game, the newest first, and the one that takes every channel apart. */
export async function splitsOf(gameId: number): Promise<readonly string[]> {
  const own = profileOf(await requireGame(gameId)).splits;
  return own.includes(CHANNELS_APART) ? own : [...own, CHANNELS_APART];
}

/** Keeps a rule as the newest. */
export async function keepSplit(gameId: number, rule: string): Promise<void> {
  const profile = profileOf(await requireGame(gameId));
  const splits = [rule, ...profile.splits.filter((one) => one !== rule)].slice(0, MOST);
  await GameModel.update({ profile: { ...profile, splits } }, { where: { id: gameId } });
}
