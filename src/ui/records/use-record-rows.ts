'use client';
import { useQueries, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { RecordLine, RecordTable } from '../../server/shapes';
import { call } from '../shared/api';
import type { RecordPlace } from './record-place';

/** Rows that are asked for together. */
const PAGE = 100;

export interface RecordSort {
  readonly by: string;
  readonly order: 'up' | 'down';
}

/** The rows of a table that match, of which those in view are asked for a page at a time. */
export function useRecordRows(gameId: number, table: RecordTable, place: RecordPlace) {
  const [sort, setSort] = useState<RecordSort>();
  const query = (offset: number, limit: number) => ({
    table: table.id,
    search: place.search,
    ...(place.column === undefined ? {} : { column: place.column }),
    ...(place.value === undefined ? {} : { value: place.value }),
    ...(place.dangling ? { dangling: true } : {}),
    ...(sort === undefined ? {} : { sort: sort.by, order: sort.order }),
    offset,
    limit,
  });
  const { data: first, error } = useQuery({
    queryKey: ['game', gameId, 'records', 'rows', query(0, 1)],
    queryFn: () => call('GET games/{game}/records', { game: gameId, query: query(0, 1) }),
    placeholderData: (before) => before,
  });
  return { sort, setSort, query, total: first?.total, error };
}

/** @returns the row at an index, once its page is there */
export function usePages(
  gameId: number,
  indexes: readonly number[],
  query: ReturnType<typeof useRecordRows>['query'],
): (index: number) => RecordLine | undefined {
  const pages = [...new Set(indexes.map((index) => Math.floor(index / PAGE)))];
  const answers = useQueries({
    queries: pages.map((page) => ({
      queryKey: ['game', gameId, 'records', 'rows', query(page * PAGE, PAGE)],
      queryFn: () => call('GET games/{game}/records', { game: gameId, query: query(page * PAGE, PAGE) }),
    })),
  });
  return (index) => answers[pages.indexOf(Math.floor(index / PAGE))]?.data?.rows[index % PAGE];
}
