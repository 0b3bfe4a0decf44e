'use client';
import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query';
import type { EntryPage, EntryRow } from '../../server/shapes';
import { api } from '../shared/api';
import { listQuery, type Place } from './use-place';

const PAGE = 200;

export interface Entries {
  readonly page: EntryPage | undefined;
  readonly total: number;
  readonly error: Error | null;
  /** The entry in a row, once its page has come. */
  at(index: number): EntryRow | undefined;
}

/** What is listed, as the server is asked for it. */
export function queryOf(place: Place): string {
  return new URLSearchParams(
    Object.entries(listQuery(place)).map(([key, value]): [string, string] => [key, String(value)]),
  ).toString();
}

/** The entries of a place, fetched page by page as they come into view. */
export function useEntries(game: number, place: Place, visible: { from: number; to: number }): Entries {
  const query = queryOf(place);
  const fetchPage = (page: number) => ({
    queryKey: ['game', game, 'entries', query, page],
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      api<EntryPage>(`games/${game}/entries?${query}&limit=${PAGE}&offset=${page * PAGE}`, { signal }),
  });
  const first = useQuery({ ...fetchPage(0), placeholderData: keepPreviousData });
  const pages = new Set<number>();
  for (let page = Math.floor(visible.from / PAGE); page <= Math.floor(visible.to / PAGE); page++)
    if (page > 0) pages.add(page);
  const numbers = [...pages];
  const more = useQueries({ queries: numbers.map(fetchPage) });
  return {
    page: first.data,
    total: first.data?.total ?? 0,
    error: first.error,
    at: (index) => {
      const page = Math.floor(index / PAGE);
      const rows = page === 0 ? first.data?.rows : more[numbers.indexOf(page)]?.data?.rows;
      return rows?.[index - page * PAGE];
    },
  };
}
