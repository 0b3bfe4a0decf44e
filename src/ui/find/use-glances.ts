'use client';
import { useQueries } from '@tanstack/react-query';
import type { EntryRow, Glance } from '../../server/shapes';
import { call } from '../shared/api';
import type { Entries } from './use-entries';

/** Entries that are asked for together: neighbours, so that scrolling asks for each once; few, so that the first are seen soon. */
const TOGETHER = 12;

/** What there is to say of the entries in view; it comes in blocks of neighbours. */
export function useGlances(
  game: number,
  entries: Entries,
  from: number,
  to: number,
): (entry: EntryRow) => Glance | undefined {
  const blocks: [archive: number, n: number][][] = [];
  for (let start = Math.floor(from / TOGETHER) * TOGETHER; start < to; start += TOGETHER) {
    const block: [number, number][] = [];
    for (let index = start; index < Math.min(start + TOGETHER, entries.total); index++) {
      const entry = entries.at(index);
      if (entry !== undefined && entry.role !== 'removes') block.push([entry.archive, entry.n]);
    }
    if (block.length > 0) blocks.push(block);
  }
  const answers = useQueries({
    queries: blocks.map((block) => ({
      queryKey: ['game', game, 'glances', ...block],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        call('POST games/{game}/glances', { game, body: { entries: block }, signal }),
      staleTime: 60_000,
    })),
  });
  const known = new Map<string, Glance>();
  for (const [i, block] of blocks.entries())
    for (const [place, [archive, n]] of block.entries()) {
      const glance = answers[i]?.data?.[place];
      if (glance !== undefined) known.set(`${archive}.${n}`, glance);
    }
  return ({ archive, n }) => known.get(`${archive}.${n}`);
}
