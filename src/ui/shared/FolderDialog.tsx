'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import List from '@mui/material/List';
import ListItemButton from '@mui/material/ListItemButton';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import { DialogFoot } from './DialogFoot';
import { counted, fileName } from './format';
import { usePlaces } from './queries';
import { FaultNote } from './states';

interface Props {
  readonly open: boolean;
  readonly title: string;
  readonly verb: string;
  readonly onClose: () => void;
  readonly onChoose: (folder: string) => void;
}

/** Chooses a folder of the server, under the allowed roots; a path can be typed as well. */
export function FolderDialog({ open, title, verb, onClose, onChoose }: Props) {
  const [under, setUnder] = useState('');
  const [typed, setTyped] = useState<string>();
  const { data, error } = usePlaces(under, open);
  const folder = typed ?? data?.folder ?? '';
  const go = (path: string) => {
    setUnder(path);
    setTyped(undefined);
  };
  return (
    <Dialog open={open} onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>{title}</DialogTitle>
      <DialogContent>
        <TextField
          fullWidth
          autoFocus
          value={folder}
          placeholder="A path, or choose below"
          onChange={(event) => setTyped(event.target.value)}
          onKeyDown={(event) => event.key === 'Enter' && folder !== '' && go(folder)}
          slotProps={{ htmlInput: { className: 'mono', 'aria-label': 'Folder' } }}
        />
        {error !== null && (
          <Box sx={{ mt: 1.5 }}>
            <FaultNote>{error.message}</FaultNote>
          </Box>
        )}
        <List dense sx={{ height: 280, overflow: 'auto', mt: 1, border: '1px solid var(--line)', borderRadius: 1 }}>
          {data?.folder !== null && data !== undefined && (
            <ListItemButton onClick={() => go(data.parent ?? '')} className="dim">
              {data.parent === null ? 'Allowed places' : 'Up'}
            </ListItemButton>
          )}
          {data?.folders.map((path) => (
            <ListItemButton key={path} onClick={() => go(path)} className={data.folder === null ? 'mono' : ''}>
              {visible(data.folder === null ? path : fileName(path))}
            </ListItemButton>
          ))}
        </List>
        {data?.folder != null && (
          <Box className="dim" sx={{ mt: 0.5 }}>
            {counted(data.files, 'file')} directly in this folder
          </Box>
        )}
      </DialogContent>
      <DialogFoot onClose={onClose} disabled={folder === ''} onClick={() => onChoose(folder)}>
        {verb}
      </DialogFoot>
    </Dialog>
  );
}
