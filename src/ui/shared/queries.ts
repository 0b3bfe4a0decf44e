'use client';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { ArchiveAnswer, GameAnswer, RunAnswer } from '../../server/shapes';
import { call } from './api';
import { useNotice } from './notices';

export const useGames = () => useQuery({ queryKey: ['games'], queryFn: () => call('GET games') });

export const useGame = (game: number) =>
  useQuery({ queryKey: ['game', game], queryFn: () => call('GET games/{game}', { game }) });

/** An archive wherever it lies, such as inside another; those of the folder come with the game. */
export const useArchive = (game: GameAnswer | undefined, archive: number | undefined): ArchiveAnswer | undefined => {
  const own = game?.archives.find((one) => one.id === archive);
  const { data } = useQuery({
    queryKey: ['game', game?.id, 'archive', archive],
    queryFn: () => call('GET games/{game}/archives/{archive}', { game: game!.id, archive: archive! }),
    enabled: game !== undefined && archive !== undefined && own === undefined,
  });
  return archive === undefined ? undefined : (own ?? data);
};

export const useInside = (game: number, archive: number) =>
  useQuery({
    queryKey: ['game', game, 'inside', archive],
    queryFn: () => call('GET games/{game}/archives/{archive}/inside', { game, archive }),
  });

export const isGoing = (run: Pick<RunAnswer, 'state'>) =>
  run.state === 'working' || run.state === 'waiting' || run.state === 'stopping';

/** Kept up to date by events, see `useRunEvents`; now and then it is asked for as well, should one be missed. */
export const useRuns = (game: number) =>
  useQuery({
    queryKey: ['runs', game],
    queryFn: () => call('GET runs', { query: { game } }),
    refetchInterval: ({ state }) => (state.data?.some(isGoing) === true ? 5000 : false),
  });

export const useTray = (game: number) =>
  useQuery({ queryKey: ['game', game, 'tray'], queryFn: () => call('GET games/{game}/tray', { game }) });

export const useChanges = (game: number) =>
  useQuery({ queryKey: ['game', game, 'changes'], queryFn: () => call('GET games/{game}/changes', { game }) });

export const usePutBack = (game: number) =>
  useQuery({ queryKey: ['game', game, 'put-back'], queryFn: () => call('GET games/{game}/put-back', { game }) });

export const useRecipes = () => useQuery({ queryKey: ['recipes'], queryFn: () => call('GET recipes') });

export const usePlaces = (under: string, enabled = true) =>
  useQuery({
    queryKey: ['places', under],
    queryFn: () => call('GET places', { query: { under } }),
    enabled,
  });

export const useEntry = (game: number, entry: { archive: number; n: number } | undefined) =>
  useQuery({
    queryKey: ['game', game, 'entry', entry?.archive, entry?.n],
    queryFn: () => call('GET games/{game}/entries/{archive}/{n}', { game, archive: entry!.archive, n: entry!.n }),
    enabled: entry !== undefined,
  });

export const useWinner = (game: number, path: string | undefined) =>
  useQuery({
    queryKey: ['game', game, 'winner', path],
    queryFn: () => call('GET games/{game}/winner', { game, query: { path: path! } }),
    enabled: path !== undefined,
  });

/**
 * A change on the server; what was read of the game before is read again. A refusal is said at the foot of the page,
 * unless the caller shows it where it belongs.
 */
export function useGameMutation<Input, Output>(
  game: number | undefined,
  work: (input: Input) => Promise<Output>,
  options: { showsFault?: boolean } = {},
) {
  const client = useQueryClient();
  const say = useNotice();
  return useMutation({
    mutationFn: work,
    onError: (error) => {
      if (options.showsFault !== true) say({ tone: 'error', text: error.message });
    },
    onSettled: () => {
      void client.invalidateQueries({ queryKey: ['game', game] });
      void client.invalidateQueries({ queryKey: ['runs', game] });
      void client.invalidateQueries({ queryKey: ['games'] });
    },
  });
}
