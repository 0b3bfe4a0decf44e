'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import { NUMBER_FORMS, type Sought } from '../../core/inside';
import type { RunAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { Chip } from '../shared/Chip';
import { counted } from '../shared/format';
import { useGameMutation } from '../shared/queries';
import type { ListPart } from './ListFoot';
import { FaultNote } from '../shared/states';

const WAYS = { text: 'A text', number: 'A number', bytes: 'Bytes' } as const;
const HINTS: Readonly<Record<Sought['is'], string>> = {
  text: 'Found in UTF-8, UTF-16, Windows-1252 and Shift-JIS alike.',
  number: 'Both byte orders are searched; a signed number as it is stored.',
  bytes: 'Hex digits; ?? matches any byte: 52 49 46 46 ?? ?? ?? ?? 57',
};

interface Props {
  readonly gameId: number;
  /** The entries that are searched, as they are sent to the server, and how many there are. */
  readonly part: ListPart;
  readonly count: number;
  readonly onStarted: (run: RunAnswer) => void;
  readonly onClose: () => void;
}

/** What to look for inside the entries of the list. */
export function InsideDialog({ gameId, part, count, onStarted, onClose }: Props) {
  const [is, setIs] = useState<Sought['is']>('text');
  const [typed, setTyped] = useState('');
  const [exact, setExact] = useState(false);
  const [forms, setForms] = useState<readonly (typeof NUMBER_FORMS)[number][]>(['u32']);
  const sought: Sought =
    is === 'text'
      ? { is, text: typed, exact }
      : is === 'number'
        ? { is, number: Number(typed), forms: [...forms] }
        : { is, bytes: typed };
  const ready = typed.trim() !== '' && (is !== 'number' || (Number.isFinite(Number(typed)) && forms.length > 0));
  const start = useGameMutation(
    gameId,
    () => call('POST games/{game}/inside', { game: gameId, body: { ...part, sought } }),
    {
      showsFault: true,
    },
  );
  const begin = async () => {
    onStarted(await start.mutateAsync(undefined));
    onClose();
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (ready) void begin().catch(() => {});
        }}
      >
        <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>
          Look inside {counted(count, 'entry', 'entries')}
        </DialogTitle>
        <DialogContent>
          <Box sx={{ display: 'flex', gap: 0.75, mb: 1.5 }}>
            {(Object.keys(WAYS) as Sought['is'][]).map((way) => (
              <Chip key={way} on={is === way} onClick={() => setIs(way)}>
                {WAYS[way]}
              </Chip>
            ))}
          </Box>
          <TextField
            fullWidth
            autoFocus
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
            helperText={HINTS[is]}
            slotProps={{
              htmlInput: { 'aria-label': 'What to look for', className: is === 'text' ? '' : 'mono', maxLength: 500 },
            }}
          />
          {is === 'text' && (
            <FormControlLabel
              control={<Checkbox checked={exact} size="small" onChange={(event) => setExact(event.target.checked)} />}
              label="Match case"
            />
          )}
          {is === 'number' && (
            <Box sx={{ display: 'flex', gap: 0.75, mt: 1 }}>
              {NUMBER_FORMS.map((form) => (
                <Chip
                  key={form}
                  on={forms.includes(form)}
                  onClick={() =>
                    setForms(forms.includes(form) ? forms.filter((one) => one !== form) : [...forms, form])
                  }
                >
                  {form}
                </Chip>
              ))}
            </Box>
          )}
          {start.error !== null && <FaultNote>{start.error.message}</FaultNote>}
        </DialogContent>
        <DialogActions>
          <Button variant="text" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" variant="contained" disabled={!ready || start.isPending}>
            Look inside
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
