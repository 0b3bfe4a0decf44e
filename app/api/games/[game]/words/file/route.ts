import { answerText, faultResponse, numberParam } from '../../../../../../src/server/http';
import { wordsFileQuery } from '../../../../../../src/server/shapes';
import { wordsFile } from '../../../../../../src/server/words';

type Context = { params: Promise<{ game: string }> };

/** All texts of a table as CSV, PO or JSON. */
export async function GET(request: Request, { params }: Context): Promise<Response> {
  const query = wordsFileQuery.safeParse(Object.fromEntries(new URL(request.url).searchParams));
  if (!query.success) return faultResponse(query.error);
  const game = numberParam((await params).game, 'game');
  const file = wordsFile(game, query.data);
  const name = await file.then(
    (made) => made.name,
    () => 'words',
  );
  return answerText(name, 'text/plain', async () => (await file).text);
}
