/** What a request may do on a server that others reach. */
import { timingSafeEqual } from 'node:crypto';
import type { AccessFile, Role } from './access-file';
import { sessionOf, type Session } from './session';

/** The header that carries the token of a session. */
export const TOKEN_HEADER = 'x-zero-latch-token';
/** Tells pages the role of the session. Removed from incoming requests, so that no client can set it. */
export const ROLE_HEADER = 'x-zero-latch-role';

/** What anybody reaches: the page that asks for the passphrase, and what it is made of. */
const OPEN_PATHS = /^\/(sign-in$|api\/session$|_next\/static\/|icon\.svg$)/;
const READING = new Set(['GET', 'HEAD', 'OPTIONS']);

export type Passage =
  | { readonly is: 'open' }
  | { readonly is: 'in'; readonly session: Session }
  | { readonly is: 'refused'; readonly status: 401 | 403 | 503; readonly code: string; readonly sentence: string };

const refused = (status: 401 | 403 | 503, code: string, sentence: string): Passage => ({
  ...{ is: 'refused' as const, status, code, sentence },
});

interface Asked {
  readonly path: string;
  readonly method: string;
  readonly cookie: string | undefined;
  readonly token: string | null;
}

/** Whether a request is let through. @param file undefined when no passphrase is set: then none is */
export async function passage(file: AccessFile | undefined, asked: Asked): Promise<Passage> {
  if (file?.full === undefined)
    return refused(503, 'not-allowed', 'No passphrase is set, so access is refused. Run npm run passphrase.');
  if (OPEN_PATHS.test(asked.path)) return { is: 'open' };
  const session = await sessionOf(file, asked.cookie);
  if (session === undefined) return refused(401, 'not-signed-in', 'You are not signed in, or no longer.');
  if (READING.has(asked.method)) return { is: 'in', session };
  if (!isSame(asked.token ?? '', session.token))
    return refused(403, 'not-allowed', 'The request does not carry the token of your session. Load the page again.');
  return mayWrite(session.role)
    ? { is: 'in', session }
    : refused(
        403,
        'read-only',
        'You are signed in to look only. Sign in with the other passphrase to change something.',
      );
}

const mayWrite = (role: Role) => role === 'full';

function isSame(a: string, b: string): boolean {
  const [one, other] = [Buffer.from(a), Buffer.from(b)];
  return one.length === other.length && timingSafeEqual(one, other);
}
