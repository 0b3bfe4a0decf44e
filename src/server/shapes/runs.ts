/** Long work. */
import { type FaultAnswer } from './common';

export type RunState = 'waiting' | 'working' | 'stopping' | 'done' | 'failed' | 'stopped' | 'interrupted';

export interface RunAnswer {
  readonly id: number;
  readonly gameId: number | null;
  readonly kind: string;
  readonly title: string;
  readonly state: RunState;
  readonly done: number;
  readonly total: number;
  readonly unit: string;
  readonly log: readonly { readonly at: string; readonly text: string }[];
  readonly result: Readonly<Record<string, unknown>> | null;
  readonly fault: FaultAnswer | null;
  readonly createdAt: string;
  readonly startedAt: string | null;
  readonly endedAt: string | null;
}
