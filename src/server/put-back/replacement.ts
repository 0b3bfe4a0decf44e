/** New bytes for one entry of an archive. */
export interface Replacement {
  readonly n: number;
  readonly blob: string;
  readonly size: number;
  readonly fileName: string;
  /** A loop that goes into its row. */
  readonly loop?: readonly [first: number, last: number] | undefined;
}
