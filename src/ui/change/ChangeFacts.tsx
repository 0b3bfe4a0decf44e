'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import Link from 'next/link';
import { useState } from 'react';
import type { ChangeAnswer, EntryDetails } from '../../server/shapes';
import { api } from '../shared/api';
import { counted, fileName, size, when } from '../shared/format';
import { useAct } from '../shared/queries';
import { Part } from '../shared/states';

/** What the game expects back, what was done to get there, and what else belongs to the change. */
export function ChangeFacts({
  gameId,
  change,
  entry,
}: {
  gameId: number;
  change: ChangeAnswer;
  entry: EntryDetails | undefined;
}) {
  const undoAll = useAct(gameId, () =>
    api(`games/${gameId}/drops/${change.drop!}`, { method: 'PATCH', body: { undone: true } }),
  );
  return (
    <Box
      component="aside"
      aria-label="What the game expects back"
      sx={{
        width: 300,
        flex: 'none',
        overflow: 'auto',
        background: 'var(--sheet)',
        borderLeft: '1px solid var(--line)',
        p: 1.75,
      }}
    >
      <Typography variant="h2" sx={{ mb: 1 }}>
        What the game expects back
      </Typography>
      {entry?.expects.map((line) => (
        <Box key={line} sx={{ display: 'flex', gap: 1.25, mb: 1 }}>
          <span style={{ color: 'var(--teal)' }}>✓</span>
          <span>{line}</span>
        </Box>
      ))}
      {change.done.length > 0 && (
        <Part title="Made to fit">
          {change.done.map((line) => (
            <div key={line}>{line}</div>
          ))}
        </Part>
      )}
      {change.beside.length > 0 && (
        <Part title="Changes with it">
          {change.beside.map((one) => (
            <Box key={one} className="mono" sx={{ overflowWrap: 'anywhere' }}>
              {fileName(one)}
            </Box>
          ))}
        </Part>
      )}
      <Part title="Size">{entry === undefined ? '' : `${size(entry.size)} before, ${size(change.size)} after`}</Part>
      <Part title="Came">
        {when(change.createdAt)}
        {change.why !== '' && `, ${change.why}`}
        {change.dropCount > 1 && !change.undone && (
          <div>
            with {counted(change.dropCount - 1, 'other')}.{' '}
            <Button
              variant="text"
              sx={{ p: 0, minWidth: 0 }}
              disabled={undoAll.isPending}
              onClick={() => undoAll.mutate(undefined)}
            >
              Undo all {change.dropCount.toLocaleString('en')}
            </Button>
          </div>
        )}
      </Part>
      <Note key={change.id} gameId={gameId} change={change} />
      <Button variant="contained" component={Link} href={`/games/${gameId}/put-back`}>
        Put back…
      </Button>
    </Box>
  );
}

/** Kept when the field is left. */
function Note({ gameId, change }: { gameId: number; change: ChangeAnswer }) {
  const [typed, setTyped] = useState<string>();
  const keep = useAct(gameId, (note: string) =>
    api(`games/${gameId}/changes/${change.id}`, { method: 'PATCH', body: { note } }),
  );
  return (
    <Part title="Note">
      <TextField
        fullWidth
        multiline
        maxRows={8}
        size="small"
        placeholder="Why, for whom, what is left"
        value={typed ?? change.note}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={() => {
          if (typed !== undefined && typed !== change.note) keep.mutate(typed);
        }}
        slotProps={{ htmlInput: { 'aria-label': 'Note', maxLength: 4000 } }}
      />
    </Part>
  );
}
