import type { RunAnswer, RunKind, RunResult } from '../../server/shapes';

/** What a run gave back, when it is one of this kind and has ended well. */
export function resultOf<K extends RunKind>(run: RunAnswer | undefined, kind: K): RunResult<K> | undefined {
  return run?.kind === kind && run.state === 'done' ? ((run.result as RunResult<K> | null) ?? undefined) : undefined;
}
