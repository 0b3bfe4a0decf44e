'use client';
import type { ChangeAnswer } from '../../server/shapes';
import { api } from '../shared/api';
import { useAct } from '../shared/queries';

/** Sends a file to take the place of an entry; without a path the entry is found by the file's name. */
export function useReplace(gameId: number, options: { showsFault?: boolean } = {}) {
  return useAct(
    gameId,
    ({ path, file }: { path?: string; file: File }) => {
      const query = new URLSearchParams({ name: file.name, ...(path === undefined ? {} : { path }) });
      return api<{ change: ChangeAnswer; done: readonly string[] }>(`games/${gameId}/changes?${query.toString()}`, {
        raw: file,
      });
    },
    options,
  );
}
