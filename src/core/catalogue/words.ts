/** The words of the search line; the page offers them while someone types. */

/** Words that take something after their colon, with what they mean; shown while typing, and in the guide. */
export const SEARCH_WORDS = {
  kind: 'picture, sound, film, words, mesh, records or bytes',
  size: 'such as >64k, <2mb',
  archive: 'part of the name of the archive it lies in',
  nameless: 'entries whose name is not known',
  changed: 'entries you have changed',
  label: 'part of what you noted on it',
  'used-by': 'part of the path of an entry that names it',
  uses: 'part of the path of an entry it names',
} as const;
