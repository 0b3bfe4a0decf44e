import { route } from '../../../../../src/server/http';
import { putBackAnswer } from '../../../../../src/server/put-back';

export const GET = route('GET games/{game}/put-back', async ({ params }) => putBackAnswer(params.game));
