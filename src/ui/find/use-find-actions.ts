import { useRouter } from 'next/navigation';
import { useCallback, useEffect } from 'react';
import type { EntryDetails, RunAnswer } from '../../server/shapes';
import { useBringIn } from '../change/use-bring-in';
import { resultOf } from '../runs/run-result';
import { type BodyOf, call } from '../shared/api';
import { useNotice } from '../shared/notices';
import { useGameMutation } from '../shared/queries';
import type { Place } from './use-place';

interface FindActions {
  toggleTray(): void;
  /** Marks the entry as removed from the game. */
  remove(): void;
  /** A file takes the place of an entry. */
  replace(path: string, file: File): void;
  /** Shows the entry that wins for a path. */
  goToPath(path: string): Promise<void>;
  /** Follows an import that was started elsewhere. */
  follow(drop: number): void;
}

/** What can be done with an entry in Find; each says how it went. */
export function useFindActions(
  gameId: number,
  entry: EntryDetails | undefined,
  go: (next: Partial<Place>) => void,
): FindActions {
  const say = useNotice();
  const router = useRouter();
  const look = useCallback(
    (path: string | undefined) => ({ label: 'Look at it', run: () => router.push(changeUrl(gameId, path)) }),
    [gameId, router],
  );
  const tray = useGameMutation(gameId, (edit: BodyOf<'POST games/{game}/tray'>) =>
    call('POST games/{game}/tray', { game: gameId, body: edit }),
  );
  const remove = useGameMutation(gameId, async (path: string) => {
    await call('POST games/{game}/changes', { game: gameId, body: { remove: path } });
    say({ tone: 'success', text: `${path} will be removed from the game.`, action: look(path) });
  });
  const onBrought = useCallback(
    (run: RunAnswer) => {
      const path = resultOf(run, 'bring-in')?.first ?? undefined;
      if (run.fault !== null) say({ tone: 'error', text: run.fault.sentence });
      else if (path === undefined)
        say({ tone: 'error', text: 'The file was not taken. Change says why.', action: look(path) });
      else say({ tone: 'success', text: `${path} is changed.`, action: look(path) });
    },
    [look, say],
  );
  const bringIn = useBringIn(gameId, onBrought);
  const [notSent] = bringIn.refused;
  useEffect(() => {
    if (notSent !== undefined) say({ tone: 'error', text: notSent });
  }, [notSent, say]);
  return {
    toggleTray: () => {
      if (entry !== undefined) tray.mutate(entry.inTray ? { remove: [entry.path] } : { add: [entry.path] });
    },
    remove: () => {
      if (entry !== undefined) remove.mutate(entry.path);
    },
    replace: (path, file) => {
      say({ tone: 'info', text: `${file.name} is made to fit ${path}…` });
      void bringIn.bring([{ file, path }]);
    },
    goToPath: async (path) => {
      try {
        const { archive, n } = await call('GET games/{game}/winner', { game: gameId, query: { path } });
        go({ selected: { archive, n } });
      } catch (error) {
        say({ tone: 'error', text: (error as Error).message });
      }
    },
    follow: bringIn.goOn,
  };
}

const changeUrl = (gameId: number, path: string | undefined) =>
  `/games/${gameId}/change${path === undefined ? '' : `?path=${encodeURIComponent(path)}`}`;
