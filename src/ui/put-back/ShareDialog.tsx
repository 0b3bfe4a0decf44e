'use client';
import { sayNote } from '../../core/notes';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import TextField from '@mui/material/TextField';
import { useRef, useState } from 'react';
import type { GameAnswer, SharedFile, ShareOrder } from '../../server/shapes';
import { RunLine } from '../runs/RunLine';
import { resultOf } from '../runs/run-result';
import { call } from '../shared/api';
import { FilePick } from '../shared/FilePick';
import { counted, size } from '../shared/format';
import { isGoing, useGameMutation, useRuns } from '../shared/queries';
import { FaultNote } from '../shared/states';
import { useStoredState } from '../shared/use-stored-state';

const AS_WORDS: Readonly<Record<SharedFile['as'], string>> = {
  whole: 'whole',
  difference: 'as a difference',
  gone: 'named as gone',
  'left out': 'left out',
};

type Typed = Pick<ShareOrder, 'name' | 'release' | 'author' | 'notes' | 'licence' | 'differences'>;

/** Makes a mod file of one's own changes, and says how each goes into it. */
export function ShareDialog({ game, onClose }: { game: GameAnswer; onClose: () => void }) {
  const [typed, setTyped] = useStoredState<Typed>(`share.${game.id}`, {
    ...{ name: `My ${game.name}`, release: '1', author: '', notes: '', licence: '', differences: true },
  });
  const [picture, setPicture] = useState<{ blob: string; name: string }>();
  const [runId, setRun] = useState<number>();
  const pick = useRef<HTMLInputElement>(null);
  const { data: runs } = useRuns(game.id);
  const run = runs?.find(({ id }) => id === runId);
  const send = useGameMutation(game.id, async (file: File) => {
    const { picture: blob } = await call('POST games/{game}/mods/share/picture', { game: game.id, send: file });
    setPicture({ blob, name: file.name });
  });
  const make = useGameMutation(
    game.id,
    () =>
      call('POST games/{game}/mods/share', {
        game: game.id,
        body: { ...typed, ...(picture === undefined ? {} : { picture: picture.blob }) },
      }),
    { showsFault: true },
  );
  const field = (key: Exclude<keyof Typed, 'differences'>, label: string, more: object = {}) => (
    <TextField
      size="small"
      fullWidth
      label={label}
      value={typed[key]}
      onChange={(event) => setTyped({ ...typed, [key]: event.target.value })}
      {...more}
    />
  );
  const shared = resultOf(run, 'share');
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>Share as a mod file</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 1.5 }}>
        <Box className="dim">
          A ZIP with your own files and what they replace. What is the game’s own is never in it.
        </Box>
        <Box sx={{ display: 'grid', gridTemplateColumns: '2fr 1fr', gap: 1.5 }}>
          {field('name', 'Name')}
          {field('release', 'Version')}
          {field('author', 'By')}
          {field('licence', 'Licence')}
        </Box>
        {field('notes', 'Notes', { multiline: true, minRows: 2, maxRows: 6 })}
        <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center' }}>
          <Button onClick={() => pick.current?.click()} disabled={send.isPending}>
            {picture === undefined ? 'Add a picture…' : 'Another picture…'}
          </Button>
          <span className="dim">{picture?.name}</span>
          <FilePick
            pickRef={pick}
            label="A picture of the mod"
            testId="mod-picture"
            accept="image/*"
            onPick={(file) => send.mutate(file)}
          />
        </Box>
        <FormControlLabel
          control={
            <Checkbox
              size="small"
              checked={typed.differences}
              onChange={() => setTyped({ ...typed, differences: !typed.differences })}
            />
          }
          label="Where most of an entry is the game’s, pass on the difference"
        />
        {make.error !== null && <FaultNote>{make.error.message}</FaultNote>}
        {run !== undefined && isGoing(run) && <RunLine run={run} label="Progress of the mod file" />}
        {run?.fault != null && <FaultNote>{run.fault.sentence}</FaultNote>}
        {shared !== undefined && (
          <Box>
            <Box sx={{ mb: 0.5 }}>
              <b>{shared.name}</b>, {size(shared.bytes)},{' '}
              {counted(shared.files.filter(({ as }) => as !== 'left out').length, 'change')}
            </Box>
            <Box role="list" aria-label="What is in the mod file" sx={{ maxHeight: 180, overflow: 'auto' }}>
              {shared.files.map(({ path, as, reason }) => (
                <Box key={path} role="listitem" sx={{ overflowWrap: 'anywhere' }}>
                  <span className="mono">{visible(path)}</span>{' '}
                  <span style={{ color: as === 'left out' ? 'var(--brick)' : 'var(--teal)' }}>{AS_WORDS[as]}</span>
                  <span className="dim">: {sayNote(reason)}</span>
                </Box>
              ))}
            </Box>
          </Box>
        )}
      </DialogContent>
      <DialogActions sx={{ px: 3, pb: 2 }}>
        <Button variant="text" onClick={onClose}>
          Close
        </Button>
        {shared !== undefined && (
          <Button component="a" href={`/api/games/${game.id}/mods/share/${runId}`} download>
            Download
          </Button>
        )}
        <Button
          variant="contained"
          disabled={typed.name.trim() === '' || make.isPending || (run !== undefined && isGoing(run))}
          onClick={() => make.mutate(undefined, { onSuccess: ({ id }) => setRun(id) })}
        >
          {shared === undefined ? 'Make it' : 'Make it again'}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
