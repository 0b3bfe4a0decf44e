'use client';
import { useState } from 'react';

export type Range = readonly [from: number, to: number];

export interface Selection {
  /** Places in the list, as pairs of the first and the one behind the last, in order. */
  readonly ranges: readonly Range[];
  readonly count: number;
  /** The place the keyboard is at; -1 before it is anywhere. */
  readonly cursor: number;
  has(place: number): boolean;
  /** One place alone; with `extend` everything from where it began, with `toggle` this one more or less. */
  choose(place: number, how?: { extend?: boolean; toggle?: boolean }): void;
  all(total: number): void;
  clear(): void;
}

interface State {
  readonly list: string;
  readonly cursor: number;
  readonly anchor: number;
  readonly ranges: readonly Range[];
}

/** What is chosen of a list, over all its pages. Another list begins with nothing chosen. */
export function useSelection(list: string): Selection {
  const fresh: State = { list, cursor: -1, anchor: -1, ranges: [] };
  const [kept, setKept] = useState<State>(fresh);
  const state = kept.list === list ? kept : fresh;
  const { ranges, cursor, anchor } = state;
  const has = (place: number) => ranges.some(([from, to]) => place >= from && place < to);
  return {
    ranges,
    cursor,
    count: ranges.reduce((sum, [from, to]) => sum + to - from, 0),
    has,
    choose: (place, { extend = false, toggle = false } = {}) => {
      if (extend && anchor >= 0)
        setKept({ list, cursor: place, anchor, ranges: [[Math.min(anchor, place), Math.max(anchor, place) + 1]] });
      else if (toggle)
        setKept({
          list,
          cursor: place,
          anchor: place,
          ranges: has(place) ? without(ranges, place) : withPlace(ranges, place),
        });
      else setKept({ list, cursor: place, anchor: place, ranges: [[place, place + 1]] });
    },
    all: (total) => setKept({ ...state, ranges: total === 0 ? [] : [[0, total]] }),
    clear: () => setKept({ ...state, ranges: [] }),
  };
}

function withPlace(ranges: readonly Range[], place: number): Range[] {
  const joined: Range[] = [];
  for (const range of [...ranges, [place, place + 1] as const].sort((a, b) => a[0] - b[0])) {
    const last = joined.at(-1);
    if (last !== undefined && range[0] <= last[1]) joined[joined.length - 1] = [last[0], Math.max(last[1], range[1])];
    else joined.push(range);
  }
  return joined;
}

function without(ranges: readonly Range[], place: number): Range[] {
  return ranges.flatMap(([from, to]): Range[] =>
    place < from || place >= to
      ? [[from, to]]
      : (
          [
            [from, place],
            [place + 1, to],
          ] as Range[]
        ).filter(([a, b]) => a < b),
  );
}
