/** The passphrases of a shared server, as `npm run passphrase` sets them. */
import { scrypt, timingSafeEqual } from 'node:crypto';
import { readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { z } from 'zod';

/** `full`: everything; `look`: nothing is changed, taken out or put in. */
export const ROLES = ['full', 'look'] as const;
export type Role = (typeof ROLES)[number];

const hex = z.string().regex(/^[0-9a-f]+$/);
/** A hash by scrypt (RFC 7914), with what it was made with. */
const passphrase = z.object({
  N: z
    .number()
    .int()
    .min(2 ** 14),
  r: z.number().int().min(1),
  p: z.number().int().min(1),
  salt: hex,
  hash: hex,
});
const accessFile = z.object({ secret: hex.length(64), full: passphrase.optional(), look: passphrase.optional() });
export type AccessFile = z.output<typeof accessFile>;

/** Names under which only this machine reaches itself. */
const LOOPBACK = /^(localhost|127(\.\d+){3}|\[?::1\]?)$/i;

/**
 * True when others may reach the server: it listens beyond loopback, or is called by a name that is not loopback, as
 * behind a proxy. Everybody then has to sign in.
 */
export function isOpenToOthers(settings: NodeJS.ProcessEnv): boolean {
  const names = (settings['ZERO_LATCH_HOSTS'] ?? '')
    .split(',')
    .map((name) => name.trim().replace(/:\d+$/, ''))
    .filter((name) => name !== '');
  return [settings['ZERO_LATCH_BIND'] ?? 'localhost', ...names].some((name) => !LOOPBACK.test(name));
}

let known: { readonly path: string; readonly mark: string; readonly file: AccessFile } | undefined;

/**
 * Reads the access file, cached until it changes.
 *
 * @returns undefined when there is none; then nobody can sign in
 * @throws Error when it is invalid
 */
export function readAccessFile(home: string): AccessFile | undefined {
  const path = join(home, 'access.json');
  const facts = statSync(path, { throwIfNoEntry: false });
  if (facts === undefined) return undefined;
  const mark = `${facts.mtimeMs} ${facts.ino}`;
  if (known?.path !== path || known.mark !== mark)
    known = { path, mark, file: accessFile.parse(JSON.parse(readFileSync(path, 'utf8'))) };
  return known.file;
}

/** The role a passphrase opens. Every hash is compared, whichever fits. */
export async function roleFor(file: AccessFile, given: string): Promise<Role | undefined> {
  const fits = await Promise.all(
    ROLES.map(async (role) => {
      const kept = file[role];
      return kept !== undefined && (await isHashOf(kept, given));
    }),
  );
  return ROLES.find((_, i) => fits[i]);
}

function isHashOf({ N, r, p, salt, hash }: z.output<typeof passphrase>, given: string): Promise<boolean> {
  const wanted = Buffer.from(hash, 'hex');
  return new Promise((resolve, reject) => {
    scrypt(
      given.normalize('NFC'),
      Buffer.from(salt, 'hex'),
      wanted.length,
      { N, r, p, maxmem: 512 << 20 },
      (error, made) => (error === null ? resolve(timingSafeEqual(made, wanted)) : reject(error)),
    );
  });
}
