import { faultResponse, numberParam } from '../../../../../../../src/server/http';
import { downloadZip } from '../../../../../../../src/server/take-out';

type Context = { params: Promise<{ game: string; run: string }> };

export async function GET(request: Request, { params }: Context): Promise<Response> {
  try {
    const { game, run } = await params;
    const zip = await downloadZip(numberParam(game, 'game'), numberParam(run, 'run'), request.signal);
    return new Response(zip, {
      headers: { 'content-type': 'application/zip', 'content-disposition': 'attachment; filename="tray.zip"' },
    });
  } catch (error) {
    return faultResponse(error);
  }
}
