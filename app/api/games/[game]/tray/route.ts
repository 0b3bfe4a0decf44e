import { answer, numberParam } from '../../../../../src/server/http';
import { trayEdit } from '../../../../../src/server/shapes';
import { editTray, listTray } from '../../../../../src/server/take-out';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => listTray(numberParam((await params).game, 'game')));

export const POST = (request: Request, { params }: Context) =>
  answer(async () => editTray(numberParam((await params).game, 'game'), trayEdit.parse(await request.json())));
