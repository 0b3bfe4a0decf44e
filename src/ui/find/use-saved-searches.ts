'use client';
import { useQuery } from '@tanstack/react-query';
import type { SavedSearch } from '../../server/shapes';
import { call } from '../shared/api';
import { useGameMutation } from '../shared/queries';
import type { Place } from './use-place';

/** Searches that were kept, and what can be done with them. */
export function useSavedSearches(gameId: number) {
  const { data } = useQuery({
    queryKey: ['game', gameId, 'searches'],
    queryFn: () => call('GET games/{game}/searches', { game: gameId }),
  });
  const keep = useGameMutation(gameId, (body: { name: string; place: string }) =>
    call('POST games/{game}/searches', { game: gameId, body }),
  );
  const forget = useGameMutation(gameId, (id: number) =>
    call('DELETE games/{game}/searches/{search}', { game: gameId, search: id }),
  );
  return {
    list: data ?? [],
    keep: (name: string, place: Place) => keep.mutate({ name, place: addressOf(place) }),
    forget: ({ id }: SavedSearch) => forget.mutate(id),
  };
}

/** The part of the address that is worth keeping: what is listed and how, not what is looked at. */
function addressOf(place: Place): string {
  const params = new URLSearchParams();
  if (place.search !== '') params.set('search', place.search);
  if (place.folder !== '') params.set('folder', place.folder);
  if (place.archive !== undefined) params.set('archive', String(place.archive));
  if (place.view !== 'sheet') params.set('view', place.view);
  if (place.sort !== 'path') params.set('sort', place.sort);
  if (place.order !== 'up') params.set('order', place.order);
  return params.toString();
}
