'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import Radio from '@mui/material/Radio';
import RadioGroup from '@mui/material/RadioGroup';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import type { GameAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';

type By = GameAnswer['loadOrder']['by'];

const RULES: Readonly<Record<By, { readonly title: string; readonly about: string }>> = {
  name: { title: 'By name', about: 'In the order of their names without the ending.' },
  suffix: {
    title: 'By suffix',
    about: 'The base first, then what ends with each of these, in this order.',
  },
  number: { title: 'By number', about: 'The last number in the name, the lowest first; names without one before.' },
  list: { title: 'By a list', about: 'A text file of the game with one archive per line; the last one wins.' },
};

/** The rule in half a sentence, for the head of the page. */
export function orderWords({ loadOrder, ordered }: GameAnswer): string {
  const rule =
    loadOrder.by === 'suffix'
      ? `Ordered by suffix (${loadOrder.suffixes.join(', ')})`
      : loadOrder.by === 'list'
        ? `Ordered by ${loadOrder.file}`
        : `Ordered by ${loadOrder.by}`;
  return ordered ? `${rule}, then by hand.` : `${rule}. Drag to change it.`;
}

/** Chooses the rule of the game; the order by hand is given up or kept. */
export function LoadOrderDialog({ game, onClose }: { game: GameAnswer; onClose: () => void }) {
  const { loadOrder } = game;
  const [by, setBy] = useState<By>(loadOrder.by);
  const [suffixes, setSuffixes] = useState(loadOrder.by === 'suffix' ? loadOrder.suffixes.join(', ') : '-patch');
  const [file, setFile] = useState(loadOrder.by === 'list' ? loadOrder.file : '');
  const save = useGameMutation(
    game.id,
    (forget: boolean) =>
      call('PUT games/{game}/load-order', {
        game: game.id,
        body: {
          loadOrder:
            by === 'suffix'
              ? { by, suffixes: suffixes.split(/[\s,]+/).filter((one) => one !== '') }
              : by === 'list'
                ? { by, file: file.trim() }
                : { by },
          ...(forget ? { byHand: [] } : {}),
        },
      }),
    { showsFault: true },
  );
  const apply = async (forget: boolean) => {
    await save.mutateAsync(forget);
    onClose();
  };
  const incomplete = (by === 'suffix' && suffixes.trim() === '') || (by === 'list' && file.trim() === '');
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>In which order does the game load its archives?</DialogTitle>
      <DialogContent>
        <RadioGroup value={by} onChange={(_, value) => setBy(value as By)}>
          {(Object.keys(RULES) as By[]).map((one) => (
            <Box key={one} sx={{ mb: 1 }}>
              <FormControlLabel
                value={one}
                control={<Radio size="small" />}
                label={
                  <>
                    <b>{RULES[one].title}</b>
                    <Box className="dim">{RULES[one].about}</Box>
                  </>
                }
              />
              {one === 'suffix' && by === 'suffix' && (
                <TextField
                  fullWidth
                  value={suffixes}
                  onChange={(event) => setSuffixes(event.target.value)}
                  slotProps={{ htmlInput: { className: 'mono', 'aria-label': 'Suffixes, in their order' } }}
                />
              )}
              {one === 'list' && by === 'list' && (
                <TextField
                  fullWidth
                  value={file}
                  placeholder="archives.txt"
                  onChange={(event) => setFile(event.target.value)}
                  slotProps={{ htmlInput: { className: 'mono', 'aria-label': 'The list file, in the game’s folder' } }}
                />
              )}
            </Box>
          ))}
        </RadioGroup>
        {save.error !== null && <FaultNote>{save.error.message}</FaultNote>}
      </DialogContent>
      <DialogActions sx={{ px: 3, pb: 2 }}>
        <Button variant="text" onClick={onClose}>
          Not now
        </Button>
        {game.ordered && (
          <Button disabled={incomplete || save.isPending} onClick={() => void apply(true).catch(() => {})}>
            Use it and forget the order by hand
          </Button>
        )}
        <Button
          variant="contained"
          disabled={incomplete || save.isPending}
          onClick={() => void apply(false).catch(() => {})}
        >
          Use this rule
        </Button>
      </DialogActions>
    </Dialog>
  );
}
