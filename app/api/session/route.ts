import { noCookie, signIn } from '../../../src/server/access';
import { faultResponse } from '../../../src/server/http';
import { signInOrder } from '../../../src/server/shapes';

const isSecure = (request: Request) => request.headers.get('x-forwarded-proto') === 'https';

/** Signs in. */
export async function POST(request: Request): Promise<Response> {
  try {
    const { passphrase } = signInOrder.parse(await request.json());
    // The last one is what the nearest proxy, or the server itself, has seen.
    const address = request.headers.get('x-forwarded-for')?.split(',').at(-1)?.trim() ?? 'unknown';
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
