/** New bytes for one entry of an archive. */
export interface Replacement {
  readonly n: number;
  readonly blob: string;
  readonly size: number;
  readonly fileName: string;
}
