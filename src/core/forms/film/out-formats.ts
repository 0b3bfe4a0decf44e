/** What films go out as; apart from the rest, for pages that only offer them. */
export const FILM_OUT = ['webm', 'mp4', 'srt', 'vtt', 'wav'] as const;
export type FilmOut = (typeof FILM_OUT)[number];

/** Bits a second against those of the original, by the quality that is wished for. */
const FILM_QUALITY = { fine: 1.8, even: 1, small: 0.55 } as const;

/**
 * Bytes that a film of so many seconds comes to.
 *
 * @param bits a second that the original takes
 */
export const bytesOfQuality = (bits: number, seconds: number, quality: keyof typeof FILM_QUALITY): number =>
  (bits * FILM_QUALITY[quality] * seconds) / 8;

/** The same for each quality there is. */
export const bytesByQuality = (bits: number, seconds: number): Readonly<Record<keyof typeof FILM_QUALITY, number>> => ({
  fine: bytesOfQuality(bits, seconds, 'fine'),
  even: bytesOfQuality(bits, seconds, 'even'),
  small: bytesOfQuality(bits, seconds, 'small'),
});
