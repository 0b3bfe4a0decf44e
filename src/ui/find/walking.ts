'use client';
import { useEffect, useRef, type KeyboardEvent, type MouseEvent } from 'react';
import type { EntryRow } from '../../server/shapes';
import { call } from '../shared/api';
import { queryOf, type Entries } from './use-entries';
import { listQuery, type Place } from './use-place';
import type { Selection } from './use-selection';

/** What the list and the contact sheet have in common. */
export interface ViewProps {
  readonly gameId: number;
  readonly entries: Entries;
  readonly place: Place;
  readonly selection: Selection;
  readonly onSelect: (entry: EntryRow) => void;
  readonly onVisible: (from: number, to: number) => void;
  readonly onSort: (sort: Place['sort']) => void;
  readonly onDropFile: (entry: EntryRow, file: File) => void;
}

export const isSelected = (entry: EntryRow | undefined, place: Place) =>
  entry !== undefined && entry.archive === place.selected?.archive && entry.n === place.selected.n;

/** Arrow keys over a grid of `columns` columns, `page` entries at a time with Page up and down. */
export function useWalk(
  { gameId, entries, place, selection, onSelect }: ViewProps,
  { columns, page, show }: { columns: number; page: number; show: (index: number) => void },
) {
  const { cursor } = selection;
  // The entry that the keyboard went to may still be on its way from the server.
  const awaited = useRef(-1);
  useEffect(() => {
    const arrived = awaited.current < 0 ? undefined : entries.at(awaited.current);
    if (arrived === undefined) return;
    awaited.current = -1;
    onSelect(arrived);
  });
  useGoToSelected({ gameId, entries, place, selection }, show);
  const goTo = (next: number, extend: boolean) => {
    selection.choose(next, { extend });
    show(next);
    const entry = entries.at(next);
    if (entry === undefined) awaited.current = next;
    else onSelect(entry);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (entries.total === 0 || event.altKey) return;
    if (event.ctrlKey || event.metaKey) {
      if (event.key.toLowerCase() !== 'a') return;
      event.preventDefault();
      selection.all(entries.total);
      return;
    }
    const step = {
      ArrowDown: columns,
      ArrowUp: -columns,
      ArrowRight: columns === 1 ? 0 : 1,
      ArrowLeft: columns === 1 ? 0 : -1,
      Home: -Infinity,
      End: Infinity,
      PageDown: page,
      PageUp: -page,
    }[event.key];
    if (event.key === 'Escape' && selection.count > 1) selection.clear();
    if (step === undefined) return;
    event.preventDefault();
    goTo(Math.max(0, Math.min(entries.total - 1, cursor < 0 ? 0 : cursor + step)), event.shiftKey);
  };
  const onPick = (index: number, entry: EntryRow | undefined) => (event: MouseEvent) => {
    if (entry === undefined) return;
    const toggle = event.ctrlKey || event.metaKey;
    selection.choose(index, { extend: event.shiftKey, toggle });
    if (!event.shiftKey) onSelect(entry);
  };
  return { onKeyDown, onPick };
}

/** An entry that the address names, and the keyboard did not go to, is scrolled into view. */
function useGoToSelected(
  { gameId, place, selection, entries }: Pick<ViewProps, 'gameId' | 'place' | 'selection' | 'entries'>,
  show: (index: number) => void,
) {
  const seen = useRef('');
  const { selected } = place;
  const key = selected === undefined ? '' : `${queryOf(place)} ${selected.archive}.${selected.n}`;
  const known = isSelected(entries.at(selection.cursor), place);
  const ready = entries.page !== undefined;
  useEffect(() => {
    // Only another choice than before is gone to: the list's own choices come to the address a moment later.
    if (selected === undefined || !ready || seen.current === key) return;
    seen.current = key;
    if (known) return;
    const { archive, n } = selected;
    void call('GET games/{game}/entries/place', { game: gameId, query: { ...listQuery(place), of: archive, n } }).then(
      ({ place: index }) => {
        if (index < 0 || seen.current !== key) return;
        selection.choose(index);
        show(index);
      },
      // It is not in this list, or the list cannot be had: there is nothing to go to.
      () => {},
    );
  });
}
