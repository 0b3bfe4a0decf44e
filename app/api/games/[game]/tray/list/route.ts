import { answer, answerText, numberParam } from '../../../../../../src/server/http';
import { addTrayList, trayList } from '../../../../../../src/server/take-out';
import { trayListText } from '../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** The tray as a list: a path a line. */
export const GET = (_: Request, { params }: Context) =>
  answerText('tray.txt', 'text/plain', async () => trayList(numberParam((await params).game, 'game')));

/** Puts the entries of a list into the tray. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const { text } = trayListText.parse(await request.json());
    return addTrayList(numberParam((await params).game, 'game'), text);
  });
