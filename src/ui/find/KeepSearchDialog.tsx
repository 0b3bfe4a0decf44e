'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import { useState } from 'react';

export function KeepSearchDialog({
  suggestion,
  onKeep,
  onClose,
}: {
  suggestion: string;
  onKeep: (name: string) => void;
  onClose: () => void;
}) {
  const [name, setName] = useState(suggestion.slice(0, 80));
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onKeep(name.trim());
          onClose();
        }}
      >
        <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>Save this search</DialogTitle>
        <DialogContent>
          <TextField
            fullWidth
            autoFocus
            value={name}
            onChange={(event) => setName(event.target.value)}
            onFocus={(event) => event.target.select()}
            slotProps={{ htmlInput: { 'aria-label': 'Name of the search', maxLength: 80 } }}
            helperText="An existing search of this name is replaced."
          />
        </DialogContent>
        <DialogActions>
          <Button variant="text" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" variant="contained" disabled={name.trim() === ''}>
            Save
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
