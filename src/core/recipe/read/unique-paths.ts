import type { EntryTable } from './entry-table';

/**
 * Paths that no two entries share: the second of a name gets `~2` before its extension. Archives may hold a name
 * several times, and people must be able to say which they mean.
 */
export function uniquePaths(entries: EntryTable): (entry: number) => string {
  const seen = new Map<string, number>();
  const others = new Map<number, string>();
  for (let i = 0; i < entries.count; i++) {
    const path = entries.path(i);
    const before = seen.get(path) ?? 0;
    seen.set(path, before + 1);
    if (before === 0) continue;
    let made = numbered(path, before + 1);
    for (let n = before + 2; seen.has(made); n++) made = numbered(path, n);
    seen.set(made, 1);
    others.set(i, made);
  }
  return (entry) => others.get(entry) ?? entries.path(entry);
}

function numbered(path: string, n: number): string {
  const dot = path.lastIndexOf('.');
  return dot > path.lastIndexOf('/') + 1 ? `${path.slice(0, dot)}~${n}${path.slice(dot)}` : `${path}~${n}`;
}
