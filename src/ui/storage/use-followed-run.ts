import { useMutation, useQuery } from '@tanstack/react-query';
import type { RunAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { isGoing } from '../shared/queries';

/**
 * Starts a run that belongs to no game, and follows it to its end.
 *
 * @param start asks the server to start it
 * @param onEnd called once it has ended, well or not
 */
export function useFollowedRun(start: () => Promise<RunAnswer>, onEnd: () => void) {
  const started = useMutation({ mutationFn: start });
  const { data: run } = useQuery({
    queryKey: ['run', started.data?.id],
    queryFn: async () => {
      const now = await call('GET runs/{run}', { run: started.data!.id });
      if (!isGoing(now)) onEnd();
      return now;
    },
    enabled: started.data !== undefined,
    refetchInterval: ({ state }) => (state.data === undefined || isGoing(state.data) ? 500 : false),
  });
  return {
    start: started.mutate as () => void,
    run,
    isGoing: started.isPending || (started.data !== undefined && (run === undefined || isGoing(run))),
    error: started.error,
  };
}
