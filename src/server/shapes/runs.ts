/** Long work, as pages see it. */
import { z } from 'zod';
import { faultAnswer } from './common';
import { RUN_KINDS, RUNS, type RunKind, type RunResult } from './run-contracts';

export const RUN_STATES = ['waiting', 'working', 'stopping', 'done', 'failed', 'stopped', 'interrupted'] as const;
export type RunState = (typeof RUN_STATES)[number];

const runFacts = z.object({
  id: z.number(),
  gameId: z.number().nullable(),
  title: z.string(),
  state: z.enum(RUN_STATES),
  done: z.number(),
  total: z.number(),
  unit: z.string(),
  /** Lines of its log, and the last of them. */
  lines: z.number(),
  lastLine: z.string().nullable(),
  fault: faultAnswer.nullable(),
  createdAt: z.string(),
  startedAt: z.string().nullable(),
  endedAt: z.string().nullable(),
});
type RunFacts = Readonly<z.output<typeof runFacts>>;

export type RunAnswer<K extends RunKind = RunKind> = {
  readonly [Kind in K]: RunFacts & { readonly kind: Kind; readonly result: RunResult<Kind> | null };
}[K];

const [first, ...others] = RUN_KINDS.map((kind) =>
  runFacts.extend({ kind: z.literal(kind), result: RUNS[kind].result.nullable() as z.ZodType }),
);
/** A run of any kind: what it gives back is that of its kind. */
export const runAnswer = z.discriminatedUnion('kind', [first!, ...others]) as unknown as z.ZodType<RunAnswer>;

export const logLine = z.object({ at: z.string(), text: z.string() });
export type LogLine = Readonly<z.output<typeof logLine>>;

/** An event about a run. The worker adds how long its log is, with the last line. */
export const runNews = runFacts
  .pick({ id: true, gameId: true, state: true, done: true, total: true, unit: true })
  .extend(runFacts.pick({ lines: true, lastLine: true }).partial().shape);
export type RunNews = Readonly<z.output<typeof runNews>>;
