import { soundFileAs, streamedSound } from '../../../../../../../src/server/forms';
import { answerBytes, faultResponse, numberParam, stretchOf } from '../../../../../../../src/server/http';
import { subjectOf } from '../../../../../../../src/server/subjects';

type Context = { params: Promise<{ game: string; subject: string }> };

/** The sound as WAVE, which every browser plays: decoded as it is heard where a recipe says what it is. */
export async function GET(request: Request, { params }: Context): Promise<Response> {
  try {
    const { game, subject: of } = await params;
    const subject = await subjectOf(numberParam(game, 'game'), of);
    const streamed = await streamedSound(subject);
    if (streamed !== undefined) return stretchOf(request, streamed);
    return answerBytes(request, () => soundFileAs(subject, 'wav'));
  } catch (error) {
    return faultResponse(error);
  }
}
