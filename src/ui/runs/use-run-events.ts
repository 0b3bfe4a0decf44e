import { useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { runNews, type RunAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { isGoing, useRuns } from '../shared/queries';

/**
 * Listens for events about runs. An event carries the progress of its run; a run that is new, starts or ends is fetched by
 * itself. When one ends, the game is fetched again: the run may have changed it.
 */
export function useRunEvents(game: number): void {
  const client = useQueryClient();
  const { data: runs } = useRuns(game);
  const going = runs
    ?.filter(isGoing)
    .map((run) => run.id)
    .join();
  // A run that began or ended changed the game, whether an event was received or not.
  useEffect(() => {
    if (going !== undefined) void client.invalidateQueries({ queryKey: ['game', game] });
  }, [client, game, going]);
  useEffect(() => {
    const key = ['runs', game];
    const keep = (change: (list: readonly RunAnswer[]) => readonly RunAnswer[]) =>
      client.setQueryData<readonly RunAnswer[]>(key, (list) => list && change(list));
    const ask = async (id: number) => {
      const run = await call('GET runs/{run}', { run: id });
      keep((list) => [run, ...list.filter((one) => one.id !== id)].sort((a, b) => b.id - a.id));
    };
    const source = new EventSource('/api/runs/events');
    source.onmessage = (event: MessageEvent<string>) => {
      const { data: news } = runNews.safeParse(JSON.parse(event.data));
      // An empty event is sent when the server itself had missed some.
      if (news === undefined) return void client.invalidateQueries({ queryKey: key });
      if (news.gameId !== game) return;
      const known = client.getQueryData<readonly RunAnswer[]>(key)?.find(({ id }) => id === news.id);
      if (known?.state === news.state && isGoing(known))
        keep((list) => list.map((run) => (run.id === news.id ? { ...run, ...news } : run)));
      else void ask(news.id).catch(() => client.invalidateQueries({ queryKey: key }));
      // A short run may end before it was ever listed as going on.
      if (!isGoing(news)) void client.invalidateQueries({ queryKey: ['game', game] });
    };
    // Events may have been missed while the connection was down.
    source.onopen = () => {
      void client.invalidateQueries({ queryKey: key });
      void client.invalidateQueries({ queryKey: ['game', game] });
    };
    return () => source.close();
  }, [client, game]);
}
