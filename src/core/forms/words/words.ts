/** Words: texts by key, as translators work on them. */

/** One text of a table, next to the one it is translated from. */
export interface WordRow {
  readonly key: string;
  /** In the language that is translated from; null where it has no such key. */
  readonly source: string | null;
  /** In the language that is translated to; null where it has no such key. */
  readonly text: string | null;
}

/** What someone sends back: texts by key; what is not named stays as it is. */
export interface WordEdit {
  readonly key: string;
  readonly text: string;
}
