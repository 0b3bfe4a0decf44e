import { answer, numberParam } from '../../../src/server/http';
import { listRuns } from '../../../src/server/runs';

export const GET = (request: Request) =>
  answer(async () => {
    const game = new URL(request.url).searchParams.get('game');
    return listRuns(game === null ? undefined : numberParam(game, 'game'));
  });
