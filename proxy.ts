/** Stands before every request: only this machine's own pages may talk to the server, and none may stand in a frame. */
import { NextResponse, type NextRequest } from 'next/server';
import { contentPolicy, refusalOf, SAFE_HEADERS } from './src/server/http/guard';

export function proxy(request: NextRequest): NextResponse {
  const { pathname } = request.nextUrl;
  const sentence = refusalOf(pathname, (name) => request.headers.get(name), process.env.ZERO_LATCH_HOSTS);
  if (sentence !== undefined)
    return guarded(NextResponse.json({ fault: { code: 'not-allowed', sentence } }, { status: 403 }));
  if (pathname.startsWith('/api/')) return guarded(NextResponse.next());
  // The pages' own scripts carry a number that is drawn for each answer; any other script does not run.
  const nonce = Buffer.from(crypto.getRandomValues(new Uint8Array(16))).toString('base64');
  const policy = contentPolicy(nonce);
  const headers = new Headers(request.headers);
  headers.set('x-nonce', nonce);
  headers.set('content-security-policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  return guarded(response);
}

function guarded(response: NextResponse): NextResponse {
  for (const [name, value] of Object.entries(SAFE_HEADERS)) response.headers.set(name, value);
  return response;
}
