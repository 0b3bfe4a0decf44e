import { answer, numberParam } from '../../../../../../src/server/http';
import { listRecordTables, startRecords } from '../../../../../../src/server/records';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => listRecordTables(numberParam((await params).game, 'game')));

/** Gathers the records of the game anew. */
export const POST = (_: Request, { params }: Context) =>
  answer(async () => startRecords(numberParam((await params).game, 'game')));
