import { requireGame } from '../../../../../src/server/games';
import { answer, numberParam } from '../../../../../src/server/http';
import { startRun } from '../../../../../src/server/runs';

type Context = { params: Promise<{ game: string }> };

export const POST = (_: Request, { params }: Context) =>
  answer(async () => {
    const game = await requireGame(numberParam((await params).game, 'game'));
    return startRun('scan', { title: `Scanning ${game.name}`, gameId: game.id, input: {} });
  });
