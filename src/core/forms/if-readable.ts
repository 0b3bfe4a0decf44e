import { isFaultError } from '../faults';

/**
 * What reading gives; undefined when the bytes are not what their name says, or damaged.
 *
 * @throws LimitError when they are more than may be read, and when reading is stopped
 */
export async function ifReadable<T>(reading: Promise<T>): Promise<T | undefined> {
  try {
    return await reading;
  } catch (error) {
    if (isFaultError(error) && !['stopped', 'limit-reached'].includes(error.fault.code)) return undefined;
    throw error;
  }
}
