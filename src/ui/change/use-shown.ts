'use client';
import { useSearchParams } from 'next/navigation';
import { useCallback, useRef, useState } from 'react';
import type { RunAnswer } from '../../server/shapes';
import { resultOf } from '../runs/run-result';

interface Shown {
  /** What is shown, as the address says it: `path` and `change`, or `file`. */
  readonly shown: URLSearchParams;
  show(query: Record<string, string>): void;
  /** A run that brings something in begins. */
  onBegin(): void;
  onEnded(run: RunAnswer): void;
}

/** Which change is shown: the one that was chosen, or what a run has just brought. */
export function useShown(): Shown {
  const params = useSearchParams();
  // What a run has just brought is shown without going anywhere: someone may be on their way to another station.
  const [brought, setBrought] = useState<{ readonly on: string; readonly query: Record<string, string> }>();
  const address = params.toString();
  const shown = brought?.on === address ? new URLSearchParams(brought.query) : params;
  // Who chooses something while a run goes on stays with that when it ends.
  const choseMeanwhile = useRef(false);
  const onBegin = useCallback(() => {
    choseMeanwhile.current = false;
  }, []);
  const show = useCallback((query: Record<string, string>) => {
    choseMeanwhile.current = true;
    setBrought(undefined);
    // Without asking the server for the page: what is chosen is shown at once.
    window.history.replaceState(null, '', `?${new URLSearchParams(query).toString()}`);
  }, []);
  const onEnded = useCallback(
    (run: RunAnswer) => {
      if (choseMeanwhile.current) return undefined;
      const { first = null, ask = null, taken = 0 } = resultOf(run, 'bring-in') ?? {};
      const bring = (query: Record<string, string>) => setBrought({ on: address, query });
      if (ask !== null && first === null) return bring({ file: String(ask) });
      // Of many, those that need someone are first in the list, and it stays there.
      if (ask !== null && taken > 1) return bring({});
      return first === null ? undefined : bring({ path: first });
    },
    [address],
  );
  return { shown, show, onBegin, onEnded };
}
