/** Sets the passphrases that a server for several people asks for. */
import { randomBytes, scryptSync } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { createInterface } from 'node:readline';
import { Writable } from 'node:stream';
import { Stop, step } from './say.mjs';

/** Shorter ones are guessed. */
const LEAST_LETTERS = 12;
/** Parameters of scrypt (RFC 7914): 64 MB and about a tenth of a second. They are kept with the hash. */
const COST = { N: 2 ** 16, r: 8, p: 1 };

/**
 * `npm run passphrase [-- --look | --remove]`: asks for a passphrase, or reads one line of the standard input. Everybody
 * who is signed in has to sign in again.
 */
export async function setPassphrase(checkout, args) {
  const home = resolve(checkout, process.env.ZERO_LATCH_HOME ?? '.zero-latch');
  const path = join(home, 'access.json');
  if (args.includes('--remove')) {
    rmSync(path, { force: true });
    step('The passphrases are removed; without them the server is reached from this machine only');
    return 0;
  }
  const role = args.includes('--look') ? 'look' : 'full';
  const passphrase = await asked(role === 'look' ? 'Passphrase for looking only: ' : 'Passphrase: ');
  if (passphrase.length < LEAST_LETTERS) throw new Stop(`A passphrase has at least ${LEAST_LETTERS} letters.`);
  const salt = randomBytes(16);
  const hash = scryptSync(passphrase.normalize('NFC'), salt, 32, { ...COST, maxmem: 256 << 20 });
  const before = existsSync(path) ? JSON.parse(readFileSync(path, 'utf8')) : {};
  const kept = {
    ...before,
    // Cookies are sealed with it: those of before open no more.
    secret: randomBytes(32).toString('hex'),
    [role]: { ...COST, salt: salt.toString('hex'), hash: hash.toString('hex') },
  };
  mkdirSync(home, { recursive: true });
  const temporary = `${path}.${randomBytes(6).toString('hex')}`;
  writeFileSync(temporary, `${JSON.stringify(kept, null, 2)}\n`, { mode: 0o600, flag: 'wx' });
  renameSync(temporary, path);
  step(`The passphrase is set (${path}). Only its hash is kept.`);
  if (kept.full === undefined) step('One for everything is still missing: npm run passphrase');
  return 0;
}

/** One line, which a terminal does not show. */
function asked(question) {
  const isTerminal = process.stdin.isTTY === true;
  if (isTerminal) process.stdout.write(question);
  const silent = new Writable({ write: (_chunk, _encoding, done) => done() });
  const lines = createInterface({
    input: process.stdin,
    output: isTerminal ? silent : undefined,
    terminal: isTerminal,
  });
  return new Promise((answer, reject) => {
    lines.once('line', (line) => {
      answer(line);
      if (isTerminal) process.stdout.write('\n');
      lines.close();
    });
    lines.once('close', () => reject(new Stop('No passphrase was given.')));
  });
}
