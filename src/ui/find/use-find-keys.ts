import { useEffect, useRef, type RefObject } from 'react';
import { isTyping } from '../shell/shortcuts';

interface FindKeys {
  readonly searchField: RefObject<HTMLInputElement | null>;
  readonly labelField: RefObject<HTMLInputElement | null>;
  /** Whether an entry is shown, with its label. */
  readonly hasEntry: boolean;
  readonly onTray: () => void;
  readonly onReplace: () => void;
}

/** Single keys of Find: `/` to search, T for the tray, R to replace, L to label. */
export function useFindKeys({ searchField, labelField, hasEntry, onTray, onReplace }: FindKeys): void {
  // L was pressed while the entry was still on its way.
  const labelWanted = useRef(false);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.altKey || event.metaKey) return;
      const act = {
        '/': () => searchField.current?.focus(),
        t: onTray,
        r: onReplace,
        l: () => {
          labelWanted.current = labelField.current === null;
          labelField.current?.focus();
        },
      }[event.key.toLowerCase()];
      if (act === undefined) return;
      event.preventDefault();
      act();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
  useEffect(() => {
    if (!hasEntry || !labelWanted.current) return;
    labelWanted.current = false;
    labelField.current?.focus();
  }, [hasEntry, labelField]);
}
