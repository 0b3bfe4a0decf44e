/** Which rows are shown; it is in the address. */
export interface RecordPlace {
  readonly table: number | undefined;
  readonly search: string;
  readonly column: string | undefined;
  readonly value: string | undefined;
  readonly dangling: boolean;
  /** A value that is looked for over the whole game. */
  readonly where: string;
}
