import { soundFileAs, streamedSound } from '../../../../../../../../src/server/forms';
import { requireArchive } from '../../../../../../../../src/server/games';
import { answerBytes, faultResponse, numberParam, stretchOf } from '../../../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; archive: string; n: string }> };

/** The sound as WAVE, which every browser plays: decoded as it is heard where a recipe says what it is. */
export async function GET(request: Request, { params }: Context): Promise<Response> {
  try {
    const { game, archive, n } = await params;
    const row = await requireArchive(numberParam(game, 'game'), numberParam(archive, 'archive'));
    const entry = numberParam(n, 'entry');
    const streamed = await streamedSound(row.id, entry);
    if (streamed !== undefined) return stretchOf(request, streamed);
    return answerBytes(request, () => soundFileAs(row.id, entry, 'wav'));
  } catch (error) {
    return faultResponse(error);
  }
}
