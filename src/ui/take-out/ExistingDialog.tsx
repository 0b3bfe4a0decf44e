'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import Radio from '@mui/material/Radio';
import RadioGroup from '@mui/material/RadioGroup';
import { useState } from 'react';
import type { ClashesAnswer, TakeOutOrder } from '../../server/shapes';
import { DialogFoot } from '../shared/DialogFoot';
import { count, counted } from '../shared/format';

type Existing = TakeOutOrder['existing'];

const WAYS: Readonly<Record<Existing, string>> = {
  keep: 'Keep mine, and take out the rest',
  aside: 'Take everything out, and move mine aside under another name',
  replace: 'Take everything out, and write over mine',
};

interface Props {
  /** What is there; undefined while nothing is asked. */
  readonly clashes: ClashesAnswer | undefined;
  readonly onClose: () => void;
  readonly onChoose: (existing: Existing) => void;
}

/** Asks what happens to files that hold somebody's work, before anything is written. */
export function ExistingDialog({ clashes, onClose, onChoose }: Props) {
  const [way, setWay] = useState<Existing>('keep');
  const { count: total = 0, first = [] } = clashes ?? {};
  return (
    <Dialog open={clashes !== undefined} onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>
        {total === 1 ? 'A file that is there may hold your work' : 'Files that are there may hold your work'}
      </DialogTitle>
      <DialogContent>
        <Box sx={{ mb: 1 }}>
          {counted(total, 'file')} in this folder {total === 1 ? 'was' : 'were'} not taken out from here, or{' '}
          {total === 1 ? 'has' : 'have'} been changed since:
        </Box>
        <Box component="ul" className="mono" sx={{ m: 0, mb: 1.5, pl: 2.5, overflowWrap: 'anywhere' }}>
          {first.map((path) => (
            <li key={path}>{visible(path)}</li>
          ))}
        </Box>
        {total > first.length && (
          <Box className="dim" sx={{ mb: 1.5 }}>
            and {count(total - first.length)} more
          </Box>
        )}
        <RadioGroup
          aria-label="What happens to them"
          value={way}
          onChange={(event) => setWay(event.target.value as Existing)}
        >
          {(Object.keys(WAYS) as Existing[]).map((one) => (
            <FormControlLabel key={one} value={one} control={<Radio size="small" />} label={WAYS[one]} />
          ))}
        </RadioGroup>
      </DialogContent>
      <DialogFoot onClose={onClose} onClick={() => onChoose(way)}>
        Take out
      </DialogFoot>
    </Dialog>
  );
}
