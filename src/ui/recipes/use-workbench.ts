'use client';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue } from 'react';
import { call } from '../shared/api';

/** Faults of the text itself, while typing. */
export function useCheck(text: string) {
  const late = useDeferredValue(text);
  return useQuery({
    queryKey: ['recipe-check', late],
    queryFn: ({ signal }) => call('POST recipes/check', { body: { text: late }, signal }),
    placeholderData: (before) => before,
    enabled: late.trim() !== '',
  });
}

/** What the recipe makes of a file, once typing rests. */
export function useTry(gameId: number, archiveId: number | undefined, text: string, enabled: boolean) {
  return useQuery({
    queryKey: ['recipe-try', gameId, archiveId, text],
    queryFn: ({ signal }) => call('POST recipes/try', { body: { text, gameId, archiveId: archiveId! }, signal }),
    enabled: enabled && archiveId !== undefined,
    placeholderData: (before) => before,
    retry: false,
    staleTime: Infinity,
  });
}

export function useHints(gameId: number, archiveId: number | undefined) {
  return useQuery({
    queryKey: ['hints', gameId, archiveId],
    queryFn: ({ signal }) => call('GET games/{game}/archives/{archive}/hints', { game: gameId, archive: archiveId!, signal }),
    enabled: archiveId !== undefined,
    retry: false,
    staleTime: Infinity,
  });
}

export const useVocabulary = () =>
  useQuery({
    queryKey: ['recipe-words'],
    queryFn: () => call('GET recipes/words'),
    staleTime: Infinity,
  });
