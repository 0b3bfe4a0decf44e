/** How large a converted film is to become. */
import { bytesOfQuality } from '../../../core/forms/film/out-formats';
import type { FilmOptions } from '../../shapes';

/**
 * @param bits a second that the original takes
 * @param seconds that the new one lasts
 * @returns bytes
 */
export function expectedBytes(bits: number, seconds: number, { quality = 'even', megabytes }: FilmOptions): number {
  return megabytes !== undefined ? megabytes * 1_000_000 : bytesOfQuality(bits, seconds, quality);
}

/** Bits per second below which pictures are unrecognisable. */
const LEAST_BITS = 64_000;

/** Bits per second of the pictures in a file of a size, without the other streams. */
export const bitsFor = (bytes: number, seconds: number, others = 0): number =>
  Math.max(LEAST_BITS, Math.round((bytes * 8) / Math.max(seconds, 0.1) - others));
