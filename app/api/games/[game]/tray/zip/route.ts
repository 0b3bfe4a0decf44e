import { answer, numberParam } from '../../../../../../src/server/http';
import { zipQuery } from '../../../../../../src/server/shapes';
import { trayZip } from '../../../../../../src/server/take-out';

type Context = { params: Promise<{ game: string }> };

export async function GET(request: Request, { params }: Context): Promise<Response> {
  try {
    const turn = Object.fromEntries(new URL(request.url).searchParams);
    const zip = await trayZip(numberParam((await params).game, 'game'), zipQuery.parse(turn), request.signal);
    return new Response(zip, {
      headers: { 'content-type': 'application/zip', 'content-disposition': 'attachment; filename="tray.zip"' },
    });
  } catch (error) {
    return answer(() => Promise.reject(error as Error));
  }
}
