/** Long work, as pages see it. */
import { type FaultAnswer } from './common';
import type { RunKind, RunResult } from './run-contracts';

export const RUN_STATES = ['waiting', 'working', 'stopping', 'done', 'failed', 'stopped', 'interrupted'] as const;
export type RunState = (typeof RUN_STATES)[number];

interface RunFacts {
  readonly id: number;
  readonly gameId: number | null;
  readonly title: string;
  readonly state: RunState;
  readonly done: number;
  readonly total: number;
  readonly unit: string;
  /** Lines of its log, and the last of them. */
  readonly lines: number;
  readonly lastLine: string | null;
  readonly fault: FaultAnswer | null;
  readonly createdAt: string;
  readonly startedAt: string | null;
  readonly endedAt: string | null;
}

export type RunAnswer<K extends RunKind = RunKind> = {
  readonly [Kind in K]: RunFacts & { readonly kind: Kind; readonly result: RunResult<Kind> | null };
}[K];

export interface LogLine {
  readonly at: string;
  readonly text: string;
}

/** What an event says of a run: enough to show how far it is. */
export type RunNews = Pick<RunFacts, 'id' | 'gameId' | 'state' | 'done' | 'total' | 'unit'>;
