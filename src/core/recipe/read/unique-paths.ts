import type { EntryTable } from './entry-table';

/**
 * Paths that no two entries share: the second of a name gets `~2` before its extension. Archives may hold a name
 * several times, and people must be able to say which they mean.
 */
export function uniquePaths(entries: EntryTable): (entry: number) => string {
  if (areDistinct(entries)) return (entry) => entries.path(entry);
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

/** True when no two paths are the same, judged by hashes of 53 bits: a map of a million texts would take seconds. */
function areDistinct(entries: EntryTable): boolean {
  const hashes = new Float64Array(entries.count);
  for (let i = 0; i < entries.count; i++) {
    const path = entries.path(i);
    let low = 0x811c9dc5;
    let high = path.length;
    for (let k = 0; k < path.length; k++) {
      const code = path.charCodeAt(k);
      low = Math.imul(low ^ code, 0x01000193);
      high = Math.imul(high ^ code, 0x5bd1e995) + (low >>> 15);
    }
    hashes[i] = (high & 0x1fffff) * 2 ** 32 + (low >>> 0);
  }
  hashes.sort();
  for (let i = 1; i < hashes.length; i++) if (hashes[i] === hashes[i - 1]) return false;
  return true;
}

function numbered(path: string, n: number): string {
  const dot = path.lastIndexOf('.');
  return dot > path.lastIndexOf('/') + 1 ? `${path.slice(0, dot)}~${n}${path.slice(dot)}` : `${path}~${n}`;
}
