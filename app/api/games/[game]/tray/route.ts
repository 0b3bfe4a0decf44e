import { route } from '../../../../../src/server/http';
import { editTray, listTray } from '../../../../../src/server/take-out';

export const GET = route('GET games/{game}/tray', async ({ params }) => listTray(params.game));

export const POST = route('POST games/{game}/tray', async ({ params, body }) => editTray(params.game, body));
