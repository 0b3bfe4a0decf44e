/** Stands before every request: only this machine's own pages may talk to the server. */
import { NextResponse, type NextRequest } from 'next/server';

/** A page elsewhere could otherwise reach a loopback server through a name that resolves to it. */
const HOSTS = /^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/;

export function proxy(request: NextRequest): NextResponse {
  const host = request.headers.get('host') ?? '';
  const origin = request.headers.get('origin');
  const site = request.headers.get('sec-fetch-site');
  const extra = (process.env.ZERO_LATCH_HOSTS ?? '').split(',').filter((one) => one !== '');
  if (!HOSTS.test(host) && !extra.includes(host))
    return refuse(`The host ${host.slice(0, 100)} is not one of this server's names.`);
  if (origin !== null && originHost(origin) !== host)
    return refuse('A page from elsewhere may not talk to this server.');
  if (site === 'cross-site' && request.nextUrl.pathname.startsWith('/api/'))
    return refuse('A page from elsewhere may not talk to this server.');
  return NextResponse.next();
}

function originHost(origin: string): string | undefined {
  try {
    return new URL(origin).host;
  } catch {
    return undefined;
  }
}

function refuse(sentence: string): NextResponse {
  return NextResponse.json({ fault: { code: 'not-allowed', sentence } }, { status: 403 });
}
