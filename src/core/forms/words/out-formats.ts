/** Files for translators, by their endings. */
export const WORD_FILES = ['csv', 'po', 'xliff', 'json'] as const;
export type WordFile = (typeof WORD_FILES)[number];
