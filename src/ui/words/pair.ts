/** Two tables of texts, by the archives that hold them: the source, and its translation. */
export interface Pair {
  readonly from: number;
  readonly to: number;
}
