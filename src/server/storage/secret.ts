/** Keys at rest are sealed with AES-256-GCM under a secret file of this installation. */
import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { linkSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { FaultError } from '../../core/faults';
import { env } from '../env';

const IV_BYTES = 12;
const TAG_BYTES = 16;

function secret(): Buffer {
  const path = join(env().home, 'secret');
  try {
    return readFileSync(path);
  } catch {
    mkdirSync(env().home, { recursive: true });
    // It gets its name only when it is complete: half a secret would seal keys that could never be opened again.
    const temporary = `${path}.${randomBytes(6).toString('hex')}`;
    writeFileSync(temporary, randomBytes(32), { mode: 0o600, flag: 'wx' });
    try {
      linkSync(temporary, path);
    } catch (error) {
      // Another process was quicker.
      if ((error as { code?: string }).code !== 'EEXIST') throw error;
    } finally {
      rmSync(temporary, { force: true });
    }
    return readFileSync(path);
  }
}

export function seal(plain: Uint8Array): Buffer {
  const iv = randomBytes(IV_BYTES);
  const cipher = createCipheriv('aes-256-gcm', secret(), iv);
  return Buffer.concat([iv, cipher.update(plain), cipher.final(), cipher.getAuthTag()]);
}

/** @throws FaultError when the secret file is another one than when it was sealed */
export function openSealed(sealed: Buffer): Uint8Array {
  const decipher = createDecipheriv('aes-256-gcm', secret(), sealed.subarray(0, IV_BYTES));
  decipher.setAuthTag(sealed.subarray(sealed.length - TAG_BYTES));
  try {
    return Buffer.concat([decipher.update(sealed.subarray(IV_BYTES, sealed.length - TAG_BYTES)), decipher.final()]);
  } catch (error) {
    throw new FaultError(
      {
        code: 'key-wrong',
        what: 'the kept keys cannot be opened: the secret file of this installation is another one',
        hint: 'Restore the file "secret" in ZERO_LATCH_HOME, or remove the keys and paste them again.',
      },
      { cause: error },
    );
  }
}
