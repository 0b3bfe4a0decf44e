'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import TextField from '@mui/material/TextField';
import { useState, type ReactNode } from 'react';
import type { BuildWays, RoutineStep } from '../../server/shapes';
import { DialogFoot } from '../shared/DialogFoot';
import { resultOf } from '../runs/run-result';
import { call } from '../shared/api';
import { FolderDialog } from '../shared/FolderDialog';
import { counted } from '../shared/format';
import { useGameMutation, useRuns } from '../shared/queries';
import { FaultNote } from '../shared/states';
import { HOW_WORDS } from './how-words';

/** Saves the steps from taking out to putting in under a name, to be repeated by one button. */
export function RoutineDialog({ gameId, ways, onClose }: { gameId: number; ways: BuildWays; onClose: () => void }) {
  const { data: runs } = useRuns(gameId);
  const [name, setName] = useState('');
  const [folder, setFolder] = useState('');
  const [choosing, setChoosing] = useState(false);
  const [steps, setSteps] = useState({ out: false, bring: true, build: true, putIn: false });
  const save = useGameMutation(
    gameId,
    (order: { name: string; steps: RoutineStep[] }) =>
      call('POST games/{game}/routines', { game: gameId, body: order }),
    { showsFault: true },
  );
  const last = runs?.find((run) => typeof resultOf(run, 'take-out')?.folder === 'string');
  const turn = (key: keyof typeof steps) => setSteps({ ...steps, [key]: !steps[key] });
  const keep = async () => {
    const chosen: RoutineStep[] = [
      ...(steps.out && last !== undefined
        ? [await call('GET games/{game}/take-out/{run}/step', { game: gameId, run: last.id })]
        : []),
      ...(steps.bring ? [{ do: 'bring-in' as const, folder }] : []),
      ...(steps.build ? [{ do: 'build' as const, ...ways }] : []),
      ...(steps.putIn ? [{ do: 'put-in' as const }] : []),
    ];
    save.mutate({ name: name.trim(), steps: chosen }, { onSuccess: onClose });
  };
  const some = steps.out || steps.bring || steps.build || steps.putIn;
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>Save as a routine</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 1 }}>
        <Box className="dim">
          Steps that one button, or <span className="mono">zero-latch run NAME</span>, repeats. It stops at the first
          step that fails.
        </Box>
        <TextField
          autoFocus
          size="small"
          fullWidth
          label="Name"
          value={name}
          onChange={(event) => setName(event.target.value)}
          slotProps={{ htmlInput: { maxLength: 80 } }}
          sx={{ mt: 1 }}
        />
        <Step on={steps.out} onTurn={() => turn('out')} disabled={last === undefined}>
          Take out again what was taken out last
          <span className="dim">
            {last === undefined
              ? ': nothing has been taken out yet'
              : `: ${last.title}, into ${resultOf(last, 'take-out')?.folder ?? ''}`}
          </span>
        </Step>
        <Step on={steps.bring} onTurn={() => turn('bring')}>
          Bring back the files of a folder
        </Step>
        {steps.bring && (
          <Box sx={{ display: 'flex', gap: 1, pl: 4 }}>
            <TextField
              size="small"
              fullWidth
              value={folder}
              placeholder="Folder of the edited files"
              onChange={(event) => setFolder(event.target.value)}
              slotProps={{ htmlInput: { className: 'mono', 'aria-label': 'Folder of the edited files' } }}
            />
            <Button onClick={() => setChoosing(true)}>Choose…</Button>
          </Box>
        )}
        <Step on={steps.build} onTurn={() => turn('build')}>
          Build and test: {HOW_WORDS[ways.how]}
        </Step>
        <Step on={steps.putIn} onTurn={() => turn('putIn')}>
          Put it in, in place of a build that is in
        </Step>
        {save.error !== null && <FaultNote>{save.error.message}</FaultNote>}
      </DialogContent>
      <DialogFoot
        onClose={onClose}
        disabled={name.trim() === '' || !some || (steps.bring && folder.trim() === '') || save.isPending}
        onClick={() => void keep()}
      >
        Save {counted([steps.out, steps.bring, steps.build, steps.putIn].filter(Boolean).length, 'step')}
      </DialogFoot>
      <FolderDialog
        open={choosing}
        title="Folder of the edited files"
        verb="Choose"
        onClose={() => setChoosing(false)}
        onChoose={(chosen) => {
          setFolder(chosen);
          setChoosing(false);
        }}
      />
    </Dialog>
  );
}

function Step({
  on,
  onTurn,
  disabled = false,
  children,
}: {
  on: boolean;
  onTurn: () => void;
  disabled?: boolean;
  children: ReactNode;
}) {
  return (
    <FormControlLabel
      control={<Checkbox size="small" checked={on && !disabled} disabled={disabled} onChange={onTurn} />}
      label={<span>{children}</span>}
    />
  );
}
