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
import type { ClashesAnswer } from '../../server/shapes';
import { DialogFoot } from '../shared/DialogFoot';
import { count, counted } from '../shared/format';
import { DecisionList, type Decisions, type Existing } from './DecisionList';

type Way = Existing | 'each';

const WAYS: Readonly<Record<Way, string>> = {
  keep: 'Keep mine, and take out the rest',
  aside: 'Take everything out, and move mine aside under another name',
  replace: 'Take everything out, and write over mine',
  each: 'Decide for each file',
};
/** Files that are named before anybody decides one by one. */
const MOST_NAMED = 5;

interface Props {
  /** What is there; undefined while nothing is asked. */
  readonly clashes: ClashesAnswer | undefined;
  readonly onClose: () => void;
  readonly onChoose: (choice: { existing: Existing; decisions: Decisions }) => void;
}

/** Asks what happens to files that hold someone's work, before anything is written. */
export function ExistingDialog({ clashes, onClose, onChoose }: Props) {
  const [way, setWay] = useState<Way>('keep');
  const [decisions, setDecisions] = useState<Decisions>({});
  const { count: total = 0, first = [] } = clashes ?? {};
  const unlisted = total - first.length;
  const chosen = () => (way === 'each' ? { existing: 'keep' as const, decisions } : { existing: way, decisions: {} });
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
        <RadioGroup
          aria-label="What happens to them"
          value={way}
          onChange={(event) => setWay(event.target.value as Way)}
          sx={{ mb: 1.5 }}
        >
          {(Object.keys(WAYS) as Way[]).map((one) => (
            <FormControlLabel key={one} value={one} control={<Radio size="small" />} label={WAYS[one]} />
          ))}
        </RadioGroup>
        {way === 'each' ? (
          <>
            <DecisionList
              clashes={first}
              decisions={decisions}
              onDecide={(path, decision) => setDecisions((before) => ({ ...before, [path]: decision }))}
            />
            {unlisted > 0 && (
              <Box className="dim" sx={{ mt: 1 }}>
                {counted(unlisted, 'further file')} {unlisted === 1 ? 'stays as it is' : 'stay as they are'}.
              </Box>
            )}
          </>
        ) : (
          <>
            <Box component="ul" className="mono" sx={{ m: 0, pl: 2.5, overflowWrap: 'anywhere' }}>
              {first.slice(0, MOST_NAMED).map(({ path }) => (
                <li key={path}>{visible(path)}</li>
              ))}
            </Box>
            {total > MOST_NAMED && <Box className="dim">and {count(total - MOST_NAMED)} more</Box>}
          </>
        )}
      </DialogContent>
      <DialogFoot onClose={onClose} onClick={() => onChoose(chosen())}>
        Take out
      </DialogFoot>
    </Dialog>
  );
}
