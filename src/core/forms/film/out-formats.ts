/** What films go out as; apart from the rest, for pages that only offer them. */
export const FILM_OUT = ['webm', 'mp4', 'srt', 'vtt', 'wav'] as const;
export type FilmOut = (typeof FILM_OUT)[number];

/** Bits a second against those of the original, by the quality that is wished for. */
export const FILM_QUALITY = { fine: 1.8, even: 1, small: 0.55 } as const;
