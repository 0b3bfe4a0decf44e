'use client';
import { useCallback, useLayoutEffect, useState, type RefCallback, type UIEvent } from 'react';

/** A browser lays out no box much taller than this; beyond it, the view moves over more rows than pixels. */
const MOST_PIXELS = 12_000_000;

export interface TallList {
  /** The `ref` of the box that scrolls, and the box once it is there. */
  readonly box: RefCallback<HTMLDivElement>;
  readonly element: HTMLDivElement | null;
  readonly onScroll: (event: UIEvent<HTMLDivElement>) => void;
  /** Height of the inner box. */
  readonly height: number;
  /** Rows to draw, the first and the one behind the last. */
  readonly from: number;
  readonly to: number;
  /** Where a row is drawn, from the top of the inner box. */
  topOf(row: number): number;
  /** Brings a row into view, moving no more than is needed. */
  show(row: number): void;
  /** Rows that fit into the view. */
  readonly visible: number;
}

/** Rows of one height, any number of them, of which only those in view are drawn. */
export function useTallList(count: number, rowHeight: number, overscan = 8): TallList {
  const [element, setElement] = useState<HTMLDivElement | null>(null);
  const [view, setView] = useState({ top: 0, height: 600 });
  useLayoutEffect(() => {
    if (element === null) return undefined;
    const observer = new ResizeObserver(() =>
      setView((before) => ({ top: before.top, height: element.clientHeight || before.height })),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, [element]);
  const height = Math.min(count * rowHeight, MOST_PIXELS);
  const scroll = Math.max(1, height - view.height);
  const lastFirst = Math.max(0, count - view.height / rowHeight);
  const at = Math.min(view.top, Math.max(0, height - view.height));
  // Not a whole number: rows move with the pixels.
  const first = count * rowHeight <= MOST_PIXELS ? at / rowHeight : (at / scroll) * lastFirst;
  const visible = Math.max(1, Math.floor(view.height / rowHeight));
  const onScroll = useCallback((event: UIEvent<HTMLDivElement>) => {
    const { scrollTop, clientHeight } = event.currentTarget;
    setView({ top: scrollTop, height: clientHeight });
  }, []);
  return {
    box: setElement,
    element,
    onScroll,
    height,
    from: Math.max(0, Math.floor(first) - overscan),
    to: Math.min(count, Math.ceil(first + view.height / rowHeight) + overscan),
    topOf: (row) => at + (row - first) * rowHeight,
    show: (row) => {
      const rows = view.height / rowHeight;
      const wanted = row < first ? row : row + 1 > first + rows ? row + 1 - rows : undefined;
      if (wanted === undefined) return;
      const top = count * rowHeight <= MOST_PIXELS ? wanted * rowHeight : (wanted / Math.max(1, lastFirst)) * scroll;
      element?.scrollTo({ top });
    },
    visible,
  };
}
