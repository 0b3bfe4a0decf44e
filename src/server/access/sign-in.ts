/** Signing in, with a limit on how often it is tried. */
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { FaultError } from '../../core/faults';
import { onePerProcess } from '../one-per-process';
import { env } from '../env';
import { readAccessFile, roleFor } from './access-file';
import { sealedCookie } from './session';

/** Wrong passphrases, from one address and from all of them together, in five minutes. */
const FROM_ONE = 5;
const FROM_ALL = 60;
const SECONDS = 5 * 60;

const limits = () =>
  onePerProcess('sign-in', () => ({
    one: new RateLimiterMemory({ points: FROM_ONE, duration: SECONDS }),
    // An address can be made up where no proxy is in front: all together are limited too.
    all: new RateLimiterMemory({ points: FROM_ALL, duration: SECONDS }),
  }));

/**
 * @param address of the client, as far as it is known
 * @returns the cookie of the new session, as its header says it
 * @throws FaultError `not-allowed` for a wrong passphrase, `limit-reached` when there were too many
 */
export async function signIn(passphrase: string, address: string, isSecure: boolean): Promise<string> {
  const { one, all } = limits();
  try {
    // Counted before it is looked at: tries that come together must not all come through.
    // One address over its limit does not use up the limit for all, so it cannot lock out the others.
    await one.consume(address);
    await all.consume('all');
  } catch (error) {
    if (!(error instanceof RateLimiterRes)) throw error;
    throw new FaultError({
      code: 'limit-reached',
      what: 'too many wrong passphrases',
      hint: `Try again in ${Math.ceil(error.msBeforeNext / 60_000)} minutes.`,
    });
  }
  const file = readAccessFile(env().home);
  const role = file === undefined ? undefined : await roleFor(file, passphrase);
  if (file === undefined || role === undefined)
    throw new FaultError({ code: 'not-allowed', what: 'this is not the passphrase' });
  await Promise.all([one.delete(address), all.reward('all', 1)]);
  return sealedCookie(file, role, isSecure);
}
