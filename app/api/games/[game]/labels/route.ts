import { answer, answerText, numberParam } from '../../../../../src/server/http';
import { exportLabels, setLabels } from '../../../../../src/server/labels';
import { labelEdit } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** All labels as CSV. */
export const GET = (_: Request, { params }: Context) =>
  answerText('labels.csv', 'text/csv', async () => exportLabels(numberParam((await params).game, 'game')));

export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const { labels } = labelEdit.parse(await request.json());
    return setLabels(numberParam((await params).game, 'game'), labels);
  });
