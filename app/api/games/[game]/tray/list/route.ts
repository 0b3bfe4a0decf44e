import { answerText, numberParam, route } from '../../../../../../src/server/http';
import { addTrayList, trayList } from '../../../../../../src/server/take-out';

type Context = { params: Promise<{ game: string }> };

/** The tray as a list: a path a line. */
export const GET = (_: Request, { params }: Context) =>
  answerText('tray.txt', 'text/plain', async () => trayList(numberParam((await params).game, 'game')));

/** Puts the entries of a list into the tray. */
export const POST = route('POST games/{game}/tray/list', async ({ params, body }) => {
  const { text } = body;
  return addTrayList(params.game, text);
});
