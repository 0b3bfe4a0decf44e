/** The folder that files are taken out into: never one of a game, and never the application's own. */
import { FaultError } from '../../core/faults';
import { GameModel } from '../database';
import { isBelow, underRoots } from '../storage';

/** A game, and where its folder really lies. */
export interface GameFolder {
  readonly name: string;
  readonly folder: string;
}

/** A game whose folder is gone, or is no longer allowed, has nothing to lose. */
export async function gameFolders(): Promise<GameFolder[]> {
  const games = await GameModel.findAll({ attributes: ['name', 'folder'] });
  const known = await Promise.all(
    games.map(async ({ name, folder }) => ({ name, folder: await underRoots(folder).catch(() => undefined) })),
  );
  return known.filter((one): one is GameFolder => one.folder !== undefined);
}

/**
 * @returns the folder with all links followed
 * @throws FaultError `not-allowed` for a folder outside of the roots, or one of a game
 */
export async function targetFolder(folder: string): Promise<string> {
  const real = await underRoots(folder);
  refuseGames(await gameFolders(), real, folder);
  return real;
}

/** @throws FaultError `not-allowed` for a place in the folder of a game: originals would be written over */
export function refuseGames(games: readonly GameFolder[], real: string, path: string): void {
  const game = games.find(({ folder }) => isBelow(folder, real));
  if (game === undefined) return;
  throw new FaultError({
    code: 'not-allowed',
    what: `the folder belongs to the game ${game.name}`,
    file: path,
    hint: 'Take out into a folder of its own. What the game is to load goes back through Put back.',
  });
}
