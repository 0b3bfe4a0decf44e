import { answer, numberParam } from '../../../../../src/server/http';
import { listRecords } from '../../../../../src/server/records';
import { setCell } from '../../../../../src/server/changes';
import { cellEdit, recordsQuery } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const query = recordsQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    return listRecords(numberParam((await params).game, 'game'), query);
  });

/** Writes one value. */
export const PATCH = (request: Request, { params }: Context) =>
  answer(async () => setCell(numberParam((await params).game, 'game'), cellEdit.parse(await request.json())));
