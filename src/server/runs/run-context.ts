/** What the code of a run is given. */
export interface RunContext {
  readonly runId: number;
  readonly gameId: number;
  readonly input: Readonly<Record<string, unknown>>;
  readonly signal: AbortSignal;
  /** Real units: entries or bytes. Written to the database a few times a second at most. */
  progress(
    done: number,
    total: number,
    unit?: 'entries' | 'bytes' | 'files' | 'archives' | 'names' | 'keys' | 'milliseconds',
  ): void;
  log(text: string): void;
}

export type RunWork = (context: RunContext) => Promise<object>;
