import { faultResponse, numberParam } from '../../../../../../../src/server/http';
import { buildReport } from '../../../../../../../src/server/put-back';

type Context = { params: Promise<{ game: string; build: string }> };

export async function GET(_: Request, { params }: Context): Promise<Response> {
  try {
    const { game, build } = await params;
    const { name, report } = await buildReport(numberParam(game, 'game'), numberParam(build, 'build'));
    return new Response(JSON.stringify(report, null, 2), {
      headers: {
        'content-type': 'application/json',
        'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
      },
    });
  } catch (error) {
    return faultResponse(error);
  }
}
