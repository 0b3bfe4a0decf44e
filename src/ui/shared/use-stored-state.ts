'use client';
import { useState } from 'react';

/** A choice that this browser keeps. What was kept and is no JSON any more counts as nothing. */
export function useStoredState<T>(name: string, first: T): [T, (next: T) => void] {
  const key = `zero-latch.${name}`;
  const [value, setValue] = useState<T>(() => read(key) ?? first);
  const keep = (next: T) => {
    setValue(next);
    try {
      localStorage.setItem(key, JSON.stringify(next));
    } catch {
      // A browser that keeps nothing forgets the choice with the page.
    }
  };
  return [value, keep];
}

function read<T>(key: string): T | undefined {
  try {
    const text = typeof localStorage === 'undefined' ? null : localStorage.getItem(key);
    return text === null ? undefined : (JSON.parse(text) as T);
  } catch {
    return undefined;
  }
}
