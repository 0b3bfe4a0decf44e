'use client';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type {
  ArchiveAnswer,
  ChangeAnswer,
  EntryDetails,
  GameAnswer,
  GameRow,
  InsideAnswer,
  PlacesAnswer,
  PutBackAnswer,
  RecipeAnswer,
  RunAnswer,
  TrayAnswer,
} from '../../server/shapes';
import { api, ApiFault } from './api';
import { useNotice } from './notices';

export const useGames = () => useQuery({ queryKey: ['games'], queryFn: () => api<GameRow[]>('games') });

export const useGame = (game: number) =>
  useQuery({ queryKey: ['game', game], queryFn: () => api<GameAnswer>(`games/${game}`) });

/** An archive wherever it lies, such as inside another; those of the folder come with the game. */
export const useArchive = (game: GameAnswer | undefined, archive: number | undefined): ArchiveAnswer | undefined => {
  const own = game?.archives.find((one) => one.id === archive);
  const { data } = useQuery({
    queryKey: ['game', game?.id, 'archive', archive],
    queryFn: () => api<ArchiveAnswer>(`games/${game!.id}/archives/${archive!}`),
    enabled: game !== undefined && archive !== undefined && own === undefined,
  });
  return archive === undefined ? undefined : (own ?? data);
};

export const useInside = (game: number, archive: number) =>
  useQuery({
    queryKey: ['game', game, 'inside', archive],
    queryFn: () => api<InsideAnswer>(`games/${game}/archives/${archive}/inside`),
  });

export const isGoing = (run: RunAnswer) =>
  run.state === 'working' || run.state === 'waiting' || run.state === 'stopping';

/** Kept up to date by events, see `useRunEvents`; now and then it is asked for as well, should one be missed. */
export const useRuns = (game: number) =>
  useQuery({
    queryKey: ['runs', game],
    queryFn: () => api<RunAnswer[]>(`runs?game=${game}`),
    refetchInterval: ({ state }) => (state.data?.some(isGoing) === true ? 5000 : false),
  });

export const useTray = (game: number) =>
  useQuery({ queryKey: ['game', game, 'tray'], queryFn: () => api<TrayAnswer>(`games/${game}/tray`) });

export const useChanges = (game: number) =>
  useQuery({ queryKey: ['game', game, 'changes'], queryFn: () => api<ChangeAnswer[]>(`games/${game}/changes`) });

export const usePutBack = (game: number) =>
  useQuery({ queryKey: ['game', game, 'put-back'], queryFn: () => api<PutBackAnswer>(`games/${game}/put-back`) });

export const useRecipes = () => useQuery({ queryKey: ['recipes'], queryFn: () => api<RecipeAnswer[]>('recipes') });

export const usePlaces = (under: string, enabled = true) =>
  useQuery({
    queryKey: ['places', under],
    queryFn: () => api<PlacesAnswer>(`places?under=${encodeURIComponent(under)}`),
    enabled,
  });

export const useEntry = (game: number, entry: { archive: number; n: number } | undefined) =>
  useQuery({
    queryKey: ['game', game, 'entry', entry?.archive, entry?.n],
    queryFn: () => api<EntryDetails>(`games/${game}/entries/${entry!.archive}/${entry!.n}`),
    enabled: entry !== undefined,
  });

export const useWinner = (game: number, path: string | undefined) =>
  useQuery({
    queryKey: ['game', game, 'winner', path],
    queryFn: () => api<EntryDetails>(`games/${game}/winner?path=${encodeURIComponent(path!)}`),
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
      if (options.showsFault !== true)
        say({ tone: 'error', text: error instanceof ApiFault ? error.message : String(error) });
    },
    onSettled: () => {
      void client.invalidateQueries({ queryKey: ['game', game] });
      void client.invalidateQueries({ queryKey: ['runs', game] });
      void client.invalidateQueries({ queryKey: ['games'] });
    },
  });
}
