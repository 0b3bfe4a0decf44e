/** Bytes that are to be in an archive. */
export interface Addition {
  readonly path: string;
  readonly blob: string;
  readonly size: number;
  readonly fileName: string;
}

/** New bytes for one entry of an archive. */
export interface Replacement extends Omit<Addition, 'path'> {
  readonly n: number;
  /** A loop that goes into its row. */
  readonly loop?: readonly [first: number, last: number] | undefined;
}
