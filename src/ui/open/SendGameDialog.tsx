'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import LinearProgress from '@mui/material/LinearProgress';
import TextField from '@mui/material/TextField';
import { useMutation } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { count, counted, size } from '../shared/format';
import { FaultNote } from '../shared/states';
import { useSendGame } from './use-send-game';

interface Props {
  readonly onClose: () => void;
  /** All of it is on the server, under this name. */
  readonly onSent: (game: string) => void;
}

/** Sends a game's files from this computer to the server, so that it need not lie there beforehand. */
export function SendGameDialog({ onClose, onSent }: Props) {
  const [name, setName] = useState('');
  const [files, setFiles] = useState<readonly { file: File; path: string }[]>([]);
  const folder = useRef<HTMLInputElement>(null);
  const single = useRef<HTMLInputElement>(null);
  const { send, stop, sending } = useSendGame();
  const all = useMutation({
    mutationFn: () => send(name.trim(), files),
    onSuccess: () => onSent(name.trim()),
  });
  const take = (chosen: FileList | null) => {
    const taken = [...(chosen ?? [])].map((file) => ({ file, path: pathOf(file) }));
    setFiles(taken);
    const [first] = [...(chosen ?? [])];
    if (name === '' && first !== undefined)
      setName(first.webkitRelativePath.split('/')[0] || first.name.replace(/\.[^.]*$/, ''));
  };
  const total = files.reduce((sum, { file }) => sum + file.size, 0);
  return (
    <Dialog open onClose={sending === undefined ? onClose : undefined} fullWidth maxWidth="sm">
      <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>Send a game to this server</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 1.5 }}>
        <Box className="dim">
          Its archives are enough. What is sent stays on the server; if it is cut off, send the same files again.
        </Box>
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Button disabled={sending !== undefined} onClick={() => folder.current?.click()}>
            Choose the folder…
          </Button>
          <Button disabled={sending !== undefined} onClick={() => single.current?.click()}>
            Choose files…
          </Button>
        </Box>
        <input
          ref={folder}
          type="file"
          hidden
          multiple
          // Not among the attributes the types know.
          {...{ webkitdirectory: '' }}
          aria-label="The folder of the game"
          onChange={(event) => take(event.target.files)}
        />
        <input
          ref={single}
          type="file"
          hidden
          multiple
          aria-label="Files of the game"
          data-testid="game-files"
          onChange={(event) => take(event.target.files)}
        />
        {files.length > 0 && (
          <Box>
            {counted(files.length, 'file')}, {size(total)}: <span className="mono">{visible(files[0]!.path)}</span>
            {files.length > 1 && ' and more'}
          </Box>
        )}
        <TextField
          label="Name of the game"
          value={name}
          disabled={sending !== undefined}
          onChange={(event) => setName(event.target.value)}
          fullWidth
        />
        {sending !== undefined && (
          <Box role="status">
            {size(sending.bytes)} of {size(sending.total)}, {count(sending.done)} of {counted(sending.files, 'file')}
            <LinearProgress
              aria-label="Sending the game"
              variant="determinate"
              value={sending.total === 0 ? 100 : (100 * sending.bytes) / sending.total}
              sx={{ height: 6, borderRadius: 3, mt: 0.5 }}
            />
          </Box>
        )}
        {all.error !== null && sending === undefined && <FaultNote>{all.error.message}</FaultNote>}
      </DialogContent>
      <DialogActions>
        {sending === undefined ? (
          <>
            <Button variant="text" onClick={onClose}>
              Close
            </Button>
            <Button
              variant="contained"
              disabled={files.length === 0 || name.trim() === ''}
              onClick={() => all.mutate()}
            >
              Send
            </Button>
          </>
        ) : (
          <Button onClick={stop}>Stop</Button>
        )}
      </DialogActions>
    </Dialog>
  );
}

/** The path in the game's folder, without that folder. */
function pathOf(file: File): string {
  const [, ...parts] = file.webkitRelativePath.split('/');
  return parts.length > 0 ? parts.join('/') : file.name;
}
