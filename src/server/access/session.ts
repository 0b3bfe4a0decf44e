/** Sessions in a sealed cookie; the server stores nothing. */
import { randomBytes } from 'node:crypto';
import { sealData, unsealData } from 'iron-session';
import { z } from 'zod';
import { ROLES, type AccessFile, type Role } from './access-file';

export const COOKIE = 'zero-latch';
const SECONDS = 12 * 60 * 60;

const sessionShape = z.object({ role: z.enum(ROLES), token: z.string().regex(/^[0-9a-f]{32}$/) });

export interface Session {
  readonly role: Role;
  /** Every request that changes something carries it, besides the cookie: a page elsewhere cannot know it. */
  readonly token: string;
}

/** @returns the cookie, as its header says it */
export async function sealedCookie({ secret }: AccessFile, role: Role, isSecure: boolean): Promise<string> {
  const session: Session = { role, token: randomBytes(16).toString('hex') };
  const sealed = await sealData(session, { password: secret, ttl: SECONDS });
  return cookieText(sealed, SECONDS, isSecure);
}

/** An expired, empty cookie that replaces the session's. */
export const noCookie = (isSecure: boolean): string => cookieText('', 0, isSecure);

function cookieText(value: string, seconds: number, isSecure: boolean): string {
  const parts = [`${COOKIE}=${value}`, 'Path=/', `Max-Age=${seconds}`, 'HttpOnly', 'SameSite=Strict'];
  return [...parts, ...(isSecure ? ['Secure'] : [])].join('; ');
}

/** The session in a cookie; undefined when it is foreign, tampered with, or expired. */
export async function sessionOf({ secret }: AccessFile, cookie: string | undefined): Promise<Session | undefined> {
  if (cookie === undefined || cookie === '') return undefined;
  const said: unknown = await unsealData(cookie, { password: secret, ttl: SECONDS }).catch(() => undefined);
  const parsed = sessionShape.safeParse(said);
  return parsed.success ? parsed.data : undefined;
}
