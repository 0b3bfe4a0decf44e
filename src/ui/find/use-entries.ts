'use client';
import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import type { EntryPage, EntryRow } from '../../server/shapes';
import { call } from '../shared/api';
import { listQuery, type Place } from './use-place';

const PAGE = 100;

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

/** The pages of a list that are in view. */
export interface PagesInView {
  readonly first: number;
  readonly last: number;
}

/** A page has to stay in view so long, in milliseconds, before it is asked for: a throw through a million rows passes many. */
const SETTLED = 50;

/** The pages in view, and what a list calls when other rows come into view. */
export function usePagesInView(): [PagesInView, (from: number, to: number) => void] {
  const [pages, setPages] = useState<PagesInView>({ first: 0, last: 0 });
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(timer.current), []);
  const onVisible = (from: number, to: number) => {
    const next = { first: Math.floor(from / PAGE), last: Math.floor(Math.max(from, to - 1) / PAGE) };
    clearTimeout(timer.current);
    timer.current = setTimeout(
      () => setPages((before) => (before.first === next.first && before.last === next.last ? before : next)),
      SETTLED,
    );
  };
  return [pages, onVisible];
}

/** The entries of a place, fetched page by page as they come into view. */
export function useEntries(game: number, place: Place, { first: from, last: to }: PagesInView): Entries {
  const query = queryOf(place);
  const fetchPage = (page: number) => ({
    queryKey: ['game', game, 'entries', query, page],
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      call('GET games/{game}/entries', {
        game,
        query: { ...listQuery(place), limit: PAGE, offset: page * PAGE },
        signal,
      }),
  });
  const first = useQuery({ ...fetchPage(0), placeholderData: keepPreviousData });
  const numbers = Array.from({ length: to - from + 1 }, (_, i) => from + i).filter((page) => page > 0);
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
