import { isFaultError } from '../faults';

/** What reading gives; undefined when the bytes are not what their name says, or damaged. */
export async function ifReadable<T>(reading: Promise<T>): Promise<T | undefined> {
  try {
    return await reading;
  } catch (error) {
    if (isFaultError(error) && error.fault.code !== 'stopped') return undefined;
    throw error;
  }
}
