import {
  choicesOf,
  convertIncomingFile,
  skipFile,
  placeIncomingFile,
} from '../../../../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../../../../src/server/http';
import { incomingFileEdit } from '../../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; drop: string; file: string }> };

const numbers = async ({ params }: Context) => {
  const { game, drop, file } = await params;
  return [numberParam(game, 'game'), numberParam(drop, 'drop'), numberParam(file, 'file')] as const;
};

export const PATCH = (request: Request, context: Context) =>
  answer(async () => {
    const edit = incomingFileEdit.parse(await request.json());
    const which = await numbers(context);
    return 'film' in edit ? convertIncomingFile(...which, edit.film) : placeIncomingFile(...which, edit.path);
  });

/** What is to be chosen before a film is converted. */
export const GET = (_: Request, context: Context) => answer(async () => choicesOf(...(await numbers(context))));

export const DELETE = (_: Request, context: Context) => answer(async () => skipFile(...(await numbers(context))));
