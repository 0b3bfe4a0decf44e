import { useEffect, useState } from 'react';

/** The value once it has not changed for a moment: what is asked of the server while someone types. */
export function useSettled<T>(value: T, afterMs = 300): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), afterMs);
    return () => clearTimeout(timer);
  }, [value, afterMs]);
  return settled;
}
