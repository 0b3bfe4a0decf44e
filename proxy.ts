/** Gives every page its policy: it runs no script but its own, and stands in no frame. Who may ask is decided before. */
import { NextResponse, type NextRequest } from 'next/server';
import { contentPolicy } from './src/server/http/guard';

/** Not before routes: Next keeps the first ten megabytes of a body that passes here, and drops the rest. */
export const config = { matcher: '/((?!api/|_next/static/).*)' };

export function proxy(request: NextRequest): NextResponse {
  // The pages' own scripts carry a number that is drawn for each answer; any other script does not run.
  const nonce = Buffer.from(crypto.getRandomValues(new Uint8Array(16))).toString('base64');
  const policy = contentPolicy(nonce);
  const headers = new Headers(request.headers);
  headers.set('x-nonce', nonce);
  headers.set('content-security-policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  return response;
}
