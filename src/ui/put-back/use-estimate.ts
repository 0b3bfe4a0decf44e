'use client';
import { useEffect, useRef } from 'react';
import type { PutBackAnswer } from '../../server/shapes';
import { useRole } from '../access/session';
import { call } from '../shared/api';
import { isGoing, useGameMutation, useRuns } from '../shared/queries';

/**
 * Has it worked out what each way to build writes, once for the changes there are, as soon as no other run goes on.
 *
 * @param changed whether there is anything to build
 * @returns whether it is being worked out
 */
export function useEstimate(
  gameId: number,
  changed: boolean,
  putBack: Pick<PutBackAnswer, 'ways' | 'mark'> | undefined,
): boolean {
  const { data: runs } = useRuns(gameId);
  const mayAsk = useRole() !== 'look';
  const { mutate } = useGameMutation(gameId, () => call('PUT games/{game}/builds', { game: gameId }));
  const asked = useRef('');
  const busy = runs === undefined || runs.some((run) => isGoing(run) && run.kind === 'estimate');
  const bringing =
    runs?.some((run) => isGoing(run) && ['bring-in', 'words-in', 'bring-mod'].includes(run.kind)) ?? true;
  useEffect(() => {
    if (putBack === undefined || putBack.ways !== null || !changed || busy || bringing || !mayAsk) return;
    if (asked.current === putBack.mark) return;
    asked.current = putBack.mark;
    mutate(undefined);
  }, [putBack, changed, busy, bringing, mayAsk, mutate]);
  return busy;
}
