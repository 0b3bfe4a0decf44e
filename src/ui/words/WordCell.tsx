'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState, type KeyboardEvent } from 'react';
import type { WordLine } from '../../server/shapes';

const STATE_WORDS = { left: 'left to do', changed: 'changed', done: '' } as const;
const STATE_TONES = { left: 'var(--dim)', changed: 'var(--brass)', done: undefined } as const;
const clamp = { overflow: 'hidden', display: '-webkit-box', WebkitLineClamp: 2, WebkitBoxOrient: 'vertical' } as const;

/** One text: its key, what it is translated from, and a field. It is kept when the field is left. */
export function WordCell({
  row,
  onKeep,
  onEnter,
}: {
  row: WordLine;
  onKeep: (text: string) => void;
  onEnter: (event: KeyboardEvent) => void;
}) {
  const { key, source, text, game, state, problems } = row;
  const [typed, setTyped] = useState(text ?? '');
  const keep = () => typed !== (text ?? '') && onKeep(typed);
  return (
    <>
      <Box role="cell" sx={{ minWidth: 0 }}>
        <Box className="mono" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }} title={key}>
          {key}
        </Box>
        <Box sx={{ fontSize: 12, whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}>
          {problems.length > 0 ? (
            <span style={{ color: 'var(--brick)' }} title={problems.join('; ')}>
              {problems[0]}
            </span>
          ) : (
            <span style={{ color: STATE_TONES[state] }}>{STATE_WORDS[state]}</span>
          )}
          {state === 'changed' && game !== null && (
            <Button
              variant="text"
              sx={{ p: 0, ml: 1, minWidth: 0, fontSize: 12 }}
              aria-label={`Undo ${key}`}
              onClick={() => onKeep(game)}
            >
              undo
            </Button>
          )}
        </Box>
      </Box>
      <Box role="cell" lang="mul" className={source === null ? 'dim' : ''} title={source ?? ''} sx={clamp}>
        {source ?? 'not in this language'}
      </Box>
      <Box role="cell" sx={{ minWidth: 0 }}>
        <Box
          component="textarea"
          aria-label={`Text of ${key}`}
          rows={2}
          value={typed}
          placeholder={game === null ? 'no text yet' : ''}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={keep}
          onKeyDown={(event) => {
            if (event.key === 'Escape') setTyped(text ?? '');
            if (event.key !== 'Enter' || event.altKey) return;
            event.preventDefault();
            onEnter(event);
          }}
          sx={{
            width: '100%',
            font: 'inherit',
            color: 'inherit',
            background: 'var(--sheet)',
            border: '1px solid var(--line)',
            borderRadius: '5px',
            p: 0.6,
            resize: 'none',
            display: 'block',
            '&:focus-visible': { outline: '2px solid var(--teal)' },
          }}
        />
      </Box>
    </>
  );
}
