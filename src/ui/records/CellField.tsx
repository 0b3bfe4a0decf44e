'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState } from 'react';
import type { RecordLine } from '../../server/shapes';
import { ApiFault, call } from '../shared/api';
import { useGameMutation } from '../shared/queries';

/** One value: Enter or a double click to type over it, Enter to keep it, Escape to leave it. */
export function CellField({
  gameId,
  table,
  row,
  column,
  isNumber,
  onFollow,
  back,
}: {
  gameId: number;
  table: number;
  row: RecordLine;
  column: string;
  isNumber: boolean;
  /** Goes to the row that the value names. */
  onFollow: ((value: string) => void) | undefined;
  /** Fields that name this row. */
  back: readonly { readonly field: string; readonly go: (value: string) => void }[];
}) {
  const value = row.values[column];
  const text =
    value === undefined ? '' : typeof value === 'string' ? value : JSON.stringify(value).replaceAll(',', ', ');
  const [typed, setTyped] = useState<string>();
  const [asks, setAsks] = useState<string>();
  const set = useGameMutation(
    gameId,
    (anyway: boolean) =>
      call('PATCH games/{game}/records', {
        game: gameId,
        body: { path: row.path, pointer: row.pointer, table, column, typed: typed ?? text, anyway },
      }),
    { showsFault: true },
  );
  const keep = (anyway = false) => {
    if (typed === undefined || typed === text) return setTyped(undefined);
    set.mutate(anyway, {
      onSuccess: () => setTyped(undefined),
      onError: (error) => setAsks(error instanceof ApiFault && error.code === 'conflict' ? error.message : undefined),
    });
  };
  const at = { display: 'flex', alignItems: 'center', minWidth: 0, position: 'relative' } as const;
  if (typed !== undefined)
    return (
      <Box role="cell" sx={at}>
        <Box
          component="input"
          autoFocus
          aria-label={`${column} of ${row.path}`}
          value={typed}
          onChange={(event: React.ChangeEvent<HTMLInputElement>) => setTyped(event.target.value)}
          onKeyDown={(event: React.KeyboardEvent) => {
            if (event.key === 'Enter') keep();
            if (event.key === 'Escape') {
              setTyped(undefined);
              setAsks(undefined);
            }
          }}
          onBlur={() => asks === undefined && set.error === null && keep()}
          sx={{
            width: '100%',
            font: 'inherit',
            color: 'inherit',
            background: 'var(--sheet)',
            border: '1px solid var(--teal)',
            borderRadius: 1,
            px: 1,
            py: 0.25,
          }}
        />
        {(asks !== undefined || set.error !== null) && (
          <Box
            role="alert"
            sx={{
              position: 'absolute',
              top: '100%',
              left: 0,
              zIndex: 3,
              width: 260,
              background: 'var(--brick2)',
              border: '1px solid var(--brick)',
              borderRadius: 1,
              p: 1,
              whiteSpace: 'normal',
            }}
          >
            {asks ?? set.error?.message}
            {asks !== undefined && (
              <Button variant="text" sx={{ p: 0, minWidth: 0, display: 'block' }} onClick={() => keep(true)}>
                Save it anyway
              </Button>
            )}
          </Box>
        )}
      </Box>
    );
  const first = Array.isArray(value) ? undefined : value;
  const [nearest] = back;
  return (
    <Box role="cell" sx={at}>
      <Box
        component="button"
        type="button"
        disabled={value === undefined}
        title={text}
        aria-label={`${column}: ${text === '' ? 'empty' : text}`}
        onDoubleClick={() => setTyped(text)}
        onKeyDown={(event: React.KeyboardEvent) => {
          if (event.key !== 'Enter') return;
          event.preventDefault();
          setTyped(text);
        }}
        sx={{
          all: 'unset',
          boxSizing: 'border-box',
          flex: 1,
          minWidth: 0,
          px: 1.25,
          lineHeight: '33px',
          overflow: 'hidden',
          textOverflow: 'ellipsis',
          whiteSpace: 'nowrap',
          textAlign: isNumber ? 'right' : 'left',
          '&:focus-visible': { outline: '2px solid var(--teal)', outlineOffset: -2 },
        }}
      >
        {text}
      </Box>
      {onFollow !== undefined && first != null && (
        <Button
          variant="text"
          aria-label={`To the row that ${text} names`}
          sx={{ p: 0, minWidth: 22 }}
          onClick={() => onFollow(String(first))}
        >
          →
        </Button>
      )}
      {nearest !== undefined && first != null && (
        <Button
          variant="text"
          aria-label={`What names ${text}`}
          title={back.map(({ field }) => field).join('\n')}
          sx={{ p: 0, minWidth: 22 }}
          onClick={() => nearest.go(String(first))}
        >
          ←
        </Button>
      )}
    </Box>
  );
}
