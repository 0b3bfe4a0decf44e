import type { RunInput, RunKind, RunResult } from '../shapes';

/** What the code of a run is given, whatever its kind. */
export interface RunSetting {
  readonly runId: number;
  readonly gameId: number;
  readonly signal: AbortSignal;
  /** Real units: entries or bytes. Written to the database a few times a second at most. */
  progress(
    done: number,
    total: number,
    unit?: 'entries' | 'bytes' | 'files' | 'archives' | 'names' | 'keys' | 'milliseconds',
  ): void;
  log(text: string): void;
  /** Done once the end of the run is recorded: for what a run that is resumed after a crash would need again. */
  afterwards(work: () => Promise<void>): void;
}

/** The same with the checked input of its kind. */
export interface RunContext<K extends RunKind> extends RunSetting {
  readonly input: RunInput<K>;
}

export type RunWork<K extends RunKind> = (context: RunContext<K>) => Promise<RunResult<K>>;
