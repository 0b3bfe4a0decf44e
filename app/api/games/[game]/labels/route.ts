import { answerText, numberParam, route } from '../../../../../src/server/http';
import { exportLabels, setLabels } from '../../../../../src/server/labels';

type Context = { params: Promise<{ game: string }> };

/** All labels as CSV. */
export const GET = (_: Request, { params }: Context) =>
  answerText('labels.csv', 'text/csv', async () => exportLabels(numberParam((await params).game, 'game')));

export const POST = route('POST games/{game}/labels', async ({ params, body }) => {
  const { labels } = body;
  return setLabels(params.game, labels);
});
