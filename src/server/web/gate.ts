/**
 * Stands before every request, whatever answers it: only the server's own pages may talk to it, and where others reach it,
 * they have to sign in. It never touches a body, which may be gigabytes.
 */
import type { IncomingMessage, ServerResponse } from 'node:http';
import { COOKIE, isOpenToOthers, passage, readAccessFile, ROLE_HEADER, TOKEN_HEADER } from '../access';
import { env } from '../env';
import { refusalOf, SAFE_HEADERS } from '../http/guard';

/** The client's address, as determined by the server. */
export const ADDRESS_HEADER = 'x-zero-latch-address';

/** @returns true when the request goes on; otherwise it is answered */
export async function letIn(request: IncomingMessage, response: ServerResponse): Promise<boolean> {
  for (const [name, value] of Object.entries(SAFE_HEADERS)) response.setHeader(name, value);
  const { pathname } = new URL(request.url ?? '/', 'http://here');
  const header = (name: string) => [request.headers[name]].flat()[0] ?? null;
  const isApi = pathname.startsWith('/api/');
  const sentence = refusalOf(pathname, header, process.env['ZERO_LATCH_HOSTS']);
  if (sentence !== undefined) return refuse(response, 403, 'not-allowed', sentence);
  const token = header(TOKEN_HEADER);
  const address = addressOf(request);
  // Pages and routes believe these: they come from here and from nowhere else.
  for (const name of [ROLE_HEADER, TOKEN_HEADER, ADDRESS_HEADER]) delete request.headers[name];
  request.headers[ADDRESS_HEADER] = address;
  if (!isOpenToOthers(process.env)) return true;
  const comes = await passage(readAccessFile(env().home), {
    path: pathname,
    method: request.method ?? 'GET',
    cookie: cookieOf(header('cookie') ?? ''),
    token,
  });
  if (comes.is === 'refused') {
    if (comes.status !== 401 || isApi) return refuse(response, comes.status, comes.code, comes.sentence);
    response.writeHead(302, { location: '/sign-in' }).end();
    return false;
  }
  if (comes.is === 'in') {
    request.headers[ROLE_HEADER] = comes.session.role;
    request.headers[TOKEN_HEADER] = comes.session.token;
  }
  return true;
}

function refuse(response: ServerResponse, status: number, code: string, sentence: string): false {
  response.writeHead(status, { 'content-type': 'application/json' });
  response.end(JSON.stringify({ fault: { code, sentence } }));
  return false;
}

/** Behind a proxy on this machine, the last address it has seen; else the other end of the connection. */
function addressOf({ socket, headers }: IncomingMessage): string {
  const other = socket.remoteAddress ?? 'unknown';
  const isProxy = /^(::ffff:)?127\.|^::1$/.test(other);
  const forwarded = [headers['x-forwarded-for']].flat().join(',').split(',').at(-1)?.trim();
  return isProxy && forwarded !== undefined && forwarded !== '' ? forwarded : other;
}

function cookieOf(text: string): string | undefined {
  const pair = text.split(/; */).find((one) => one.startsWith(`${COOKIE}=`));
  return pair?.slice(COOKIE.length + 1);
}
