/** What films go out as; apart from the rest, for pages that only offer them. */
export const FILM_OUT = ['webm', 'mp4', 'srt', 'vtt', 'wav'] as const;
export type FilmOut = (typeof FILM_OUT)[number];
