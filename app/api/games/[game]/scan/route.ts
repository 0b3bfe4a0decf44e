import { requireGame } from '../../../../../src/server/games';
import { route } from '../../../../../src/server/http';
import { startRun } from '../../../../../src/server/runs';

export const POST = route('POST games/{game}/scan', async ({ params }) => {
  const game = await requireGame(params.game);
  return startRun('scan', { title: `Scanning ${game.name}`, gameId: game.id, input: {} });
});
