'use client';
import { useCallback, useDeferredValue, useEffect, useRef, useState } from 'react';
import type { Place } from './use-place';

/** The address is rewritten when typing pauses this long: at every letter it would cost more than the list itself. */
const PAUSE = 300;

export interface SearchText {
  /** As the line shows it. */
  readonly typed: string;
  /** As the list follows it. */
  readonly search: string;
  readonly type: (line: string) => void;
  /** A word more or less; of words for one thing, such as two kinds, only the last stays. */
  readonly toggle: (word: string) => void;
  /** Goes on to another place, and takes along what was typed and is not yet in the address. */
  readonly go: (next: Partial<Place>) => void;
}

/** What is typed into the search line; the address follows it, and the way back brings it back. */
export function useSearchLine(place: Place, goTo: (next: Partial<Place>) => void): SearchText {
  const [typed, type] = useState(place.search);
  const search = useDeferredValue(typed);
  const line = useRef(typed);
  useEffect(() => {
    line.current = typed;
  }, [typed]);
  useEffect(() => {
    const back = () => type(new URLSearchParams(window.location.search).get('search') ?? '');
    window.addEventListener('popstate', back);
    return () => window.removeEventListener('popstate', back);
  }, []);
  useEffect(() => {
    if (search === place.search) return undefined;
    // Another search is another list: what was found inside the one before makes way.
    const next = { search, ...(place.inside === undefined ? {} : { inside: undefined }) };
    const timer = setTimeout(() => goTo(next), PAUSE);
    return () => clearTimeout(timer);
  }, [search, place.search, place.inside, goTo]);
  const go = useCallback((next: Partial<Place>) => goTo({ search: line.current, ...next }), [goTo]);
  return { typed, search, type, toggle: (word) => type(toggled(typed, word)), go };
}

function toggled(line: string, word: string): string {
  const words = line.split(/\s+/).filter((one) => one !== '');
  const key = word.slice(0, word.indexOf(':') + 1);
  return (
    words.includes(word) ? words.filter((one) => one !== word) : [...words.filter((one) => !one.startsWith(key)), word]
  ).join(' ');
}
