import { answerText, faultResponse, numberParam } from '../../../../../../src/server/http';
import { wordsFileQuery } from '../../../../../../src/server/shapes';
import { wordsFile } from '../../../../../../src/server/words';

type Context = { params: Promise<{ game: string }> };

/** All texts of a table as CSV, PO or JSON. */
export async function GET(request: Request, { params }: Context): Promise<Response> {
  const query = wordsFileQuery.safeParse(Object.fromEntries(new URL(request.url).searchParams));
  if (!query.success) return faultResponse(query.error);
  const game = numberParam((await params).game, 'game');
  return answerText(`words.${query.data.as}`, 'text/plain', async () => (await wordsFile(game, query.data)).text);
}
