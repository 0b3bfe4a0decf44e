'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import { type BodyOf, call } from '../shared/api';
import { counted } from '../shared/format';
import { useNotice } from '../shared/notices';
import { useGameMutation } from '../shared/queries';

/** One part of many texts in the place of another: of those that are shown. */
export function ReplaceWords({
  gameId,
  query,
  texts,
  onClose,
}: {
  gameId: number;
  query: Omit<BodyOf<'PATCH games/{game}/words'>, 'find' | 'by'>;
  texts: number;
  onClose: () => void;
}) {
  const [find, setFind] = useState('');
  const [by, setBy] = useState('');
  const say = useNotice();
  const replace = useGameMutation(gameId, () =>
    call('PATCH games/{game}/words', { game: gameId, body: { ...query, find, by } }),
  );
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          replace.mutate(undefined, {
            onSuccess: () => {
              say({ tone: 'info', text: `“${find}” is replaced, text by text.` });
              onClose();
            },
          });
        }}
      >
        <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>Find and replace</DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 1.5 }}>
          <span className="dim">In the {counted(texts, 'text')} that are shown.</span>
          <TextField
            size="small"
            autoFocus
            label="Find"
            value={find}
            onChange={(event) => setFind(event.target.value)}
          />
          <TextField size="small" label="Replace by" value={by} onChange={(event) => setBy(event.target.value)} />
        </DialogContent>
        <DialogActions>
          <Button variant="text" onClick={onClose}>
            Not now
          </Button>
          <Button type="submit" variant="contained" disabled={find === '' || replace.isPending}>
            Replace
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
