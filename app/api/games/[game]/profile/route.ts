import { exportProfile, importProfile } from '../../../../../src/server/games';
import { answer, numberParam, route } from '../../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

export const GET = async (_: Request, { params }: Context) => {
  const response = await answer(async () => exportProfile(numberParam((await params).game, 'game')));
  if (response.ok) response.headers.set('content-disposition', 'attachment; filename="profile.json"');
  return response;
};

export const PUT = route('PUT games/{game}/profile', ({ params, body }) => importProfile(params.game, body));
