'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import type { ChangeAnswer } from '../../server/shapes';
import { DialogFoot } from '../shared/DialogFoot';
import { call } from '../shared/api';
import { FilePick } from '../shared/FilePick';
import { counted, size } from '../shared/format';
import { useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';

/** A file becomes an entry the game does not have yet. */
export function NewEntryDialog({
  gameId,
  onAdded,
  onClose,
}: {
  gameId: number;
  onAdded: (change: ChangeAnswer) => void;
  onClose: () => void;
}) {
  const { data: archives } = useQuery({
    queryKey: ['game', gameId, 'archives-for-new'],
    queryFn: () => call('GET games/{game}/changes/new', { game: gameId }),
  });
  const [file, setFile] = useState<File>();
  const [path, setPath] = useState('');
  const [chosen, setInto] = useState<string>();
  const pick = useRef<HTMLInputElement>(null);
  // Where most entries are, a new one is most likely to belong.
  const into = chosen ?? archives?.toSorted((a, b) => b.entries - a.entries)[0]?.path ?? '';
  const add = useGameMutation(
    gameId,
    (given: File) => {
      const query = { path: path.trim(), into, name: given.name };
      return call('POST games/{game}/changes/new', { game: gameId, query, send: given });
    },
    { showsFault: true },
  );
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>A new entry</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 1.5 }}>
        <Box className="dim">It is added as it is: there is no original to match.</Box>
        <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center' }}>
          <Button onClick={() => pick.current?.click()}>
            {file === undefined ? 'Choose the file…' : 'Another file…'}
          </Button>
          <span className="dim">{file === undefined ? '' : `${file.name}, ${size(file.size)}`}</span>
          <FilePick
            pickRef={pick}
            label="The file of the new entry"
            testId="new-entry-file"
            onPick={(given) => {
              setFile(given);
              if (path === '' || path.endsWith('/')) setPath(`${path}${given.name}`);
            }}
          />
        </Box>
        <TextField
          size="small"
          fullWidth
          label="Path in the game"
          value={path}
          onChange={(event) => setPath(event.target.value)}
          slotProps={{ htmlInput: { className: 'mono' } }}
        />
        <TextField
          select
          size="small"
          fullWidth
          label="Goes into"
          value={into}
          onChange={(event) => setInto(event.target.value)}
        >
          {archives?.map((archive) => (
            <MenuItem key={archive.path} value={archive.path}>
              {archive.path}, {counted(archive.entries, 'entry', 'entries')}
            </MenuItem>
          ))}
        </TextField>
        {archives?.length === 0 && <FaultNote tone="brass">No open archive takes new entries.</FaultNote>}
        {add.error !== null && <FaultNote>{add.error.message}</FaultNote>}
      </DialogContent>
      <DialogFoot
        onClose={onClose}
        disabled={file === undefined || path.trim() === '' || into === '' || add.isPending}
        onClick={() =>
          file !== undefined &&
          add.mutate(file, {
            onSuccess: (made) => {
              onAdded(made);
              onClose();
            },
          })
        }
      >
        Add it
      </DialogFoot>
    </Dialog>
  );
}
