/**
 * Stands before every request: only the server's own pages may talk to it, none may stand in a frame, and where others
 * reach it, they have to sign in.
 */
import { NextResponse, type NextRequest } from 'next/server';
import { COOKIE, isOpenToOthers, passage, readAccessFile, ROLE_HEADER, TOKEN_HEADER } from './src/server/access';
import { env } from './src/server/env';
import { contentPolicy, refusalOf, SAFE_HEADERS } from './src/server/http/guard';

export async function proxy(request: NextRequest): Promise<NextResponse> {
  const { pathname } = request.nextUrl;
  const isApi = pathname.startsWith('/api/');
  const sentence = refusalOf(pathname, (name) => request.headers.get(name), process.env.ZERO_LATCH_HOSTS);
  if (sentence !== undefined) return refusal(403, 'not-allowed', sentence);
  const headers = new Headers(request.headers);
  // Pages believe these: they come from here and from nowhere else.
  headers.delete(ROLE_HEADER);
  const token = headers.get(TOKEN_HEADER);
  headers.delete(TOKEN_HEADER);
  if (isOpenToOthers(process.env)) {
    const comes = await passage(readAccessFile(env().home), {
      path: pathname,
      method: request.method,
      cookie: request.cookies.get(COOKIE)?.value,
      token,
    });
    if (comes.is === 'refused') {
      if (comes.status !== 401 || isApi) return refusal(comes.status, comes.code, comes.sentence);
      return guarded(NextResponse.redirect(new URL('/sign-in', request.url)));
    }
    if (comes.is === 'in') {
      headers.set(ROLE_HEADER, comes.session.role);
      headers.set(TOKEN_HEADER, comes.session.token);
    }
  }
  if (isApi) return guarded(NextResponse.next({ request: { headers } }));
  // The pages' own scripts carry a number that is drawn for each answer; any other script does not run.
  const nonce = Buffer.from(crypto.getRandomValues(new Uint8Array(16))).toString('base64');
  const policy = contentPolicy(nonce);
  headers.set('x-nonce', nonce);
  headers.set('content-security-policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  return guarded(response);
}

function refusal(status: number, code: string, sentence: string): NextResponse {
  return guarded(NextResponse.json({ fault: { code, sentence } }, { status }));
}

function guarded(response: NextResponse): NextResponse {
  for (const [name, value] of Object.entries(SAFE_HEADERS)) response.headers.set(name, value);
  return response;
}
