'use client';
import Box from '@mui/material/Box';
import { useQueries } from '@tanstack/react-query';
import type { KeyboardEvent } from 'react';
import type { WordLine, WordsQuery } from '../../server/shapes';
import { call } from '../shared/api';
import { useGameMutation } from '../shared/queries';
import { useTallList } from '../shared/use-tall-list';
import { WordCell } from './WordCell';

const PAGE = 100;
const ROW = 58;

interface Props {
  readonly gameId: number;
  readonly pair: { readonly from: number; readonly to: number; readonly spell: boolean };
  readonly total: number;
  readonly query: Pick<WordsQuery, 'from' | 'to' | 'search' | 'show'>;
}

/** Rows of texts, of which only those in view are there. Enter keeps a text and goes to the next. */
export function WordGrid({ gameId, pair, total, query }: Props) {
  const { box, element, onScroll, height, from, to, topOf, show } = useTallList(total, ROW, 6);
  const indexes = Array.from({ length: Math.max(0, to - from) }, (_, i) => from + i);
  const pages = [...new Set(indexes.map((index) => Math.floor(index / PAGE)))];
  const answers = useQueries({
    queries: pages.map((page) => ({
      queryKey: ['game', gameId, 'words', query, page],
      queryFn: () =>
        call('GET games/{game}/words', { game: gameId, query: { ...query, offset: page * PAGE, limit: PAGE } }),
    })),
  });
  const rowAt = (index: number): WordLine | undefined =>
    answers[pages.indexOf(Math.floor(index / PAGE))]?.data?.rows[index % PAGE];
  const set = useGameMutation(gameId, (edit: { key: string; text: string }) =>
    call('PUT games/{game}/words', { game: gameId, body: { ...pair, ...edit } }),
  );
  const goOn = (event: KeyboardEvent, index: number) => {
    const next = index + (event.shiftKey ? -1 : 1);
    show(next);
    requestAnimationFrame(() => element?.querySelector<HTMLTextAreaElement>(`[data-row="${next}"] textarea`)?.focus());
  };
  return (
    <Box
      ref={box}
      onScroll={onScroll}
      role="table"
      aria-label="Texts"
      aria-rowcount={total}
      sx={{ flex: 1, minHeight: 0, overflow: 'auto' }}
    >
      <Box sx={{ height, position: 'relative' }}>
        {indexes.map((index) => {
          const row = rowAt(index);
          return (
            <Box
              key={index}
              role="row"
              aria-rowindex={index + 1}
              data-row={index}
              sx={{
                position: 'absolute',
                insetInline: 0,
                top: topOf(index),
                height: ROW,
                display: 'grid',
                gridTemplateColumns: 'minmax(150px, 1fr) 2fr 2fr',
                gap: 1.5,
                px: 2.25,
                alignItems: 'center',
                borderBottom: '1px solid var(--line)',
              }}
            >
              {row !== undefined && (
                <WordCell
                  key={`${row.key} ${row.text ?? ''}`}
                  row={row}
                  onKeep={(text) => set.mutate({ key: row.key, text })}
                  onEnter={(event) => goOn(event, index)}
                />
              )}
            </Box>
          );
        })}
      </Box>
    </Box>
  );
}
