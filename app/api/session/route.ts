import { noCookie, signIn } from '../../../src/server/access';
import { faultResponse } from '../../../src/server/http';
import { signInOrder } from '../../../src/server/shapes';
import { ADDRESS_HEADER } from '../../../src/server/web/gate';

const isSecure = (request: Request) => request.headers.get('x-forwarded-proto') === 'https';

/** Signs in. */
export async function POST(request: Request): Promise<Response> {
  try {
    const { passphrase } = signInOrder.parse(await request.json());
    const address = request.headers.get(ADDRESS_HEADER) ?? 'unknown';
    const cookie = await signIn(passphrase, address, isSecure(request));
    return Response.json(null, { headers: { 'set-cookie': cookie, 'cache-control': 'no-store' } });
  } catch (error) {
    return faultResponse(error);
  }
}

/** Signs out. */
export function DELETE(request: Request): Response {
  return Response.json(null, { headers: { 'set-cookie': noCookie(isSecure(request)), 'cache-control': 'no-store' } });
}
