'use client';
import Box from '@mui/material/Box';
import InputBase from '@mui/material/InputBase';
import { useState, type Ref } from 'react';
import type { EntryDetails } from '../../server/shapes';
import { call } from '../shared/api';
import { useGameMutation } from '../shared/queries';

/**
 * A note on the entry, kept with Enter or when the field is left; Escape gives up. With Enter the focus goes back to the
 * list, so that one can walk on and note the next.
 */
export function LabelField({
  gameId,
  entry,
  fieldRef,
  onDone,
}: {
  gameId: number;
  entry: EntryDetails;
  fieldRef: Ref<HTMLInputElement>;
  onDone: () => void;
}) {
  const [typed, setTyped] = useState<string>();
  const set = useGameMutation(gameId, (text: string) =>
    call('POST games/{game}/labels', { game: gameId, body: { labels: [{ path: entry.path, text }] } }),
  );
  const keep = () => {
    if (typed !== undefined && typed.trim() !== (entry.label ?? '')) set.mutate(typed.trim());
    setTyped(undefined);
  };
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mt: 0.75 }}>
      <InputBase
        inputRef={fieldRef}
        // What was kept shows until the server has said it back.
        value={typed ?? (set.isPending ? set.variables : (entry.label ?? ''))}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === 'Enter') {
            keep();
            onDone();
          } else if (event.key === 'Escape') {
            event.stopPropagation();
            setTyped(undefined);
            onDone();
          }
        }}
        placeholder="Label: what is it? (L)"
        inputProps={{ 'aria-label': 'Label', maxLength: 200 }}
        sx={{
          flex: 1,
          fontSize: 13,
          px: 1,
          height: 28,
          borderRadius: 1,
          border: '1px solid',
          borderColor: entry.label === null && typed === undefined ? 'transparent' : 'var(--line)',
          background: 'var(--paper)',
          '&:hover': { borderColor: 'var(--line)' },
          '&:focus-within': { outline: '2px solid var(--teal)' },
        }}
      />
    </Box>
  );
}
